import type { Migration } from "./migration";

/** Who may come in over a network: keys of benches, and sessions; of both only digests. */
export const access: Migration = {
  name: "004-access",
  statements: [
    `CREATE TABLE benchKeys (id TEXT PRIMARY KEY, studyId TEXT NOT NULL, name TEXT NOT NULL, digest TEXT NOT NULL UNIQUE, createdAt TEXT NOT NULL, lastUsed TEXT)`,
    `CREATE INDEX bench_keys_by_study ON benchKeys (studyId, createdAt)`,
    `CREATE TABLE sessions (digest TEXT PRIMARY KEY, role TEXT NOT NULL, name TEXT NOT NULL, mark TEXT NOT NULL, createdAt TEXT NOT NULL, usedAt TEXT NOT NULL)`,
  ],
};
