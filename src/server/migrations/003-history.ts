import type { Migration } from "./migration";

/**
 * Moments that a person named, what the server was told to keep, the highest revision a study ever had, and a log
 * that says who, where it held the name of a browser tab.
 */
export const history: Migration = {
  name: "003-history",
  statements: [
    `CREATE TABLE marks (id TEXT PRIMARY KEY, studyId TEXT NOT NULL REFERENCES studies(id) ON DELETE CASCADE, revision INTEGER NOT NULL, station TEXT NOT NULL, name TEXT NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL)`,
    `CREATE INDEX marks_by_study ON marks (studyId, revision)`,
    `CREATE INDEX events_in_order ON events (studyId, id)`,
    `CREATE TABLE settings (name TEXT PRIMARY KEY, value TEXT NOT NULL)`,
    `CREATE TABLE spent (studyId TEXT PRIMARY KEY, revision INTEGER NOT NULL)`,
    `UPDATE events SET who = '' WHERE who NOT IN ('http', 'shipped')`,
  ],
};
