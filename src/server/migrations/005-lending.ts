import type { Migration } from "./migration";

/** Trials lent to programs and rigs, and whether a study lends any. */
export const lending: Migration = {
  name: "005-lending",
  statements: [
    `CREATE TABLE leases (id TEXT PRIMARY KEY, studyId TEXT NOT NULL, trialId TEXT NOT NULL, holder TEXT NOT NULL, seconds INTEGER NOT NULL, since TEXT NOT NULL, until TEXT NOT NULL)`,
    `CREATE UNIQUE INDEX leases_by_trial ON leases (studyId, trialId)`,
    `CREATE TABLE lending (studyId TEXT PRIMARY KEY, stopped INTEGER NOT NULL, atOnce INTEGER)`,
  ],
};
