import { actorHeader } from "./actor-name";
import { noteAnswer } from "./session";

/** What the server answered, or the sentence that says why it did not. */
export type Answered<T> = { ok: true; data: T } | { ok: false; sentence: string };

const SILENT = "The server does not answer; start it with npm start and try again.";

/** Asks the server, under the name of whoever sits here. */
export async function send<T>(path: string, method = "GET", body?: unknown): Promise<Answered<T>> {
  try {
    const file = body instanceof Blob;
    const response = await fetch(path, {
      method,
      headers: {
        ...actorHeader(),
        ...(body === undefined ? {} : { "content-type": file ? body.type : "application/json" }),
      },
      ...(body === undefined ? {} : { body: file ? body : JSON.stringify(body) }),
    });
    const data: unknown = response.status === 204 ? undefined : await response.json();
    // A refused passphrase is no session that ended.
    if (path !== "/api/session") noteAnswer(response.status);
    if (response.ok) return { ok: true, data: data as T };
    return { ok: false, sentence: (data as { detail?: string }).detail ?? "This could not be done." };
  } catch {
    // No connection, or an answer that is none: nothing is known of what it did.
    return { ok: false, sentence: SILENT };
  }
}
