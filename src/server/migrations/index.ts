import { studies } from "./001-studies";
import { facts } from "./002-facts";
import { history } from "./003-history";
import { access } from "./004-access";
import { lending } from "./005-lending";
import { verdicts } from "./006-verdicts";
import type { Migration } from "./migration";

/** Every migration in order. A new one is a file beside these and a line here. */
export const migrations: readonly Migration[] = [studies, facts, history, access, lending, verdicts];
