import css from "./shell.module.css";
import { Mark } from "./stage-marker";

/** The name above a page that belongs to no study; it leads to Home. */
export const Masthead = () => (
  <a className={css.masthead} href="/">
    <Mark />
    Trialmoor
  </a>
);
