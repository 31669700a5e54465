import type { Migration } from "./migration";

/**
 * What Home lists of a study kept beside it, why one cannot be read, the best so far of a computation, answers to
 * requests that may be sent twice, and the row that the health check writes.
 */
export const facts: Migration = {
  name: "002-facts",
  statements: [
    `ALTER TABLE studies ADD COLUMN facts TEXT`,
    `ALTER TABLE studies ADD COLUMN damage TEXT`,
    `ALTER TABLE jobs ADD COLUMN best TEXT`,
    `CREATE TABLE requests (key TEXT PRIMARY KEY, digest TEXT NOT NULL, studies TEXT NOT NULL, at TEXT NOT NULL)`,
    `CREATE TABLE probes (id INTEGER PRIMARY KEY, at TEXT NOT NULL)`,
    `CREATE INDEX studies_by_time ON studies (deletedAt, updatedAt)`,
  ],
};
