import { HERE, MOST_NAME, sessionOf } from "./access/session";

/** The name that a browser or a program says; nothing where a browser's person gave none yet, null for none said. */
function saidBy(request: Request): string | null {
  const said = request.headers.get("x-trialmoor-who");
  if (said === null) return null;
  try {
    return decodeURIComponent(said).trim().slice(0, MOST_NAME);
  } catch {
    // Not encoded: as it came.
    return said.trim().slice(0, MOST_NAME);
  }
}

/**
 * Who makes a change: the name that a person gave their browser, nothing where they gave none yet, `http` for a
 * program that says no name. Over a network it is the name that they signed in with; at a bench that of its key,
 * after whoever stands there. Names travel as encoded text, since headers hold no other letters.
 */
export function actorOf(request: Request, called?: string): string {
  const { opened, role, name } = sessionOf(request.headers) ?? HERE;
  const said = called ?? saidBy(request);
  if (!opened) return said ?? "http";
  if (role === "desk") return name;
  return said ? `${said} (${name})` : name;
}
