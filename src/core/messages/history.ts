import type { Message } from "./message";
/** Places in a study, by code. */
export interface LocationValues {
  study: { cell: string };
  order: { list: string };
  thing: { list: string; name: string };
  cell: { list: string; name: string; key: string };
  "of-trial": { name: string; trial: string; bag: string };
}

/** What stands in a cell, as far as words need to know it. */
export type Standing =
  | { is: "nothing" }
  | { is: "number"; value: number }
  | { is: "text"; text: string }
  | { is: "yes-no"; yes: boolean }
  | { is: "list"; of: Standing[] }
  | { is: "bag"; of: [name: string, value: Standing][] };

export interface Moved {
  spot: Message<LocationValues>;
  from: Standing;
  to: Standing;
  unit: string;
}

/** What became of a cell, by code. */
export interface ChangeValues {
  changed: Moved;
  entered: Moved;
  cleared: Moved;
  added: { spot: Message<LocationValues> };
  removed: { spot: Message<LocationValues> };
  "terms-moved": { spot: Message<LocationValues>; into: string[]; out: string[] };
  moved: { spot: Message<LocationValues> };
}
