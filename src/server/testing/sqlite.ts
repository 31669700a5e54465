import sqlite3 from "sqlite3";

/** A database file as tests look into it, past the server. */
export class DatabaseFile {
  private readonly handle: sqlite3.Database;
  constructor(path: string) {
    this.handle = new sqlite3.Database(path);
  }
  run(sql: string): Promise<void> {
    return new Promise((resolve, reject) => {
      this.handle.run(sql, (error) => (error ? reject(error) : resolve()));
    });
  }
  all(sql: string): Promise<unknown[]> {
    return new Promise((resolve, reject) => {
      this.handle.all(sql, (error, rows) => (error ? reject(error) : resolve(rows)));
    });
  }
  close(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.handle.close((error) => (error ? reject(error) : resolve()));
    });
  }
}
