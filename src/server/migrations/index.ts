import { studies } from "./001-studies";

/** A numbered step forward; there is no way back. */
export interface Migration {
  name: string;
  statements: string[];
}

/** Every migration in order. A new one is a file beside these and a line here. */
export const migrations: readonly Migration[] = [studies];
