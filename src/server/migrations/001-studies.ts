import type { Migration } from "./migration";

/** Studies in pieces: what is asked as one document, waves, trials and results as rows, every change as an event. */
// What an older version made halfway and did not mark is taken up where it stopped.
export const studies: Migration = {
  name: "001-studies",
  statements: [
    `CREATE TABLE IF NOT EXISTS studies (id TEXT PRIMARY KEY, title TEXT NOT NULL, revision INTEGER NOT NULL, document TEXT NOT NULL, createdAt TEXT NOT NULL, updatedAt TEXT NOT NULL, deletedAt TEXT)`,
    `CREATE TABLE IF NOT EXISTS waves (studyId TEXT NOT NULL REFERENCES studies(id) ON DELETE CASCADE, id TEXT NOT NULL, position INTEGER NOT NULL, document TEXT NOT NULL, PRIMARY KEY (studyId, id))`,
    `CREATE TABLE IF NOT EXISTS trials (studyId TEXT NOT NULL REFERENCES studies(id) ON DELETE CASCADE, id TEXT NOT NULL, position INTEGER NOT NULL, wave TEXT NOT NULL, runOrder INTEGER NOT NULL, document TEXT NOT NULL, PRIMARY KEY (studyId, id))`,
    `CREATE TABLE IF NOT EXISTS results (studyId TEXT NOT NULL, trialId TEXT NOT NULL, response TEXT NOT NULL, value TEXT NOT NULL, PRIMARY KEY (studyId, trialId, response), FOREIGN KEY (studyId, trialId) REFERENCES trials(studyId, id) ON DELETE CASCADE)`,
    `CREATE TABLE IF NOT EXISTS events (id INTEGER PRIMARY KEY AUTOINCREMENT, studyId TEXT NOT NULL, revision INTEGER NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL, edits TEXT NOT NULL)`,
    `CREATE INDEX IF NOT EXISTS events_by_study ON events (studyId, revision)`,
    `CREATE TABLE IF NOT EXISTS jobs (id TEXT PRIMARY KEY, studyId TEXT NOT NULL, name TEXT NOT NULL, state TEXT NOT NULL, progress REAL NOT NULL, text TEXT NOT NULL, answer TEXT, problem TEXT, createdAt TEXT NOT NULL, updatedAt TEXT NOT NULL)`,
  ],
};
