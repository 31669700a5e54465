import { say } from "./say";

/** Copies a text and says so; where the browser does not let it, says how to do it by hand. */
export function copyText(text: string, done: string, byHand: string): void {
  navigator.clipboard
    .writeText(text)
    .then(() => say(done, "done"))
    .catch(() => say(`The browser does not let this page copy; ${byHand}`));
}
