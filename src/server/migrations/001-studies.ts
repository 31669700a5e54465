import type { Migration } from "./migration";

/** Studies in pieces: what is asked as one document, waves, trials and results as rows, every change as an event. */
export const studies: Migration = {
  name: "001-studies",
  statements: [
    `CREATE TABLE studies (id TEXT PRIMARY KEY, title TEXT NOT NULL, revision INTEGER NOT NULL, document TEXT NOT NULL, createdAt TEXT NOT NULL, updatedAt TEXT NOT NULL, deletedAt TEXT)`,
    `CREATE TABLE waves (studyId TEXT NOT NULL REFERENCES studies(id) ON DELETE CASCADE, id TEXT NOT NULL, position INTEGER NOT NULL, document TEXT NOT NULL, PRIMARY KEY (studyId, id))`,
    `CREATE TABLE trials (studyId TEXT NOT NULL REFERENCES studies(id) ON DELETE CASCADE, id TEXT NOT NULL, position INTEGER NOT NULL, wave TEXT NOT NULL, runOrder INTEGER NOT NULL, document TEXT NOT NULL, PRIMARY KEY (studyId, id))`,
    `CREATE TABLE results (studyId TEXT NOT NULL, trialId TEXT NOT NULL, response TEXT NOT NULL, value TEXT NOT NULL, PRIMARY KEY (studyId, trialId, response), FOREIGN KEY (studyId, trialId) REFERENCES trials(studyId, id) ON DELETE CASCADE)`,
    `CREATE TABLE events (id INTEGER PRIMARY KEY AUTOINCREMENT, studyId TEXT NOT NULL, revision INTEGER NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL, edits TEXT NOT NULL)`,
    `CREATE INDEX events_by_study ON events (studyId, revision)`,
    `CREATE TABLE jobs (id TEXT PRIMARY KEY, studyId TEXT NOT NULL, name TEXT NOT NULL, state TEXT NOT NULL, progress REAL NOT NULL, text TEXT NOT NULL, answer TEXT, problem TEXT, createdAt TEXT NOT NULL, updatedAt TEXT NOT NULL)`,
  ],
};
