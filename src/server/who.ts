/** Most characters of a name. */
const MOST_NAME = 60;

/**
 * Who makes a change: the name that a person gave their browser, nothing where they gave none yet, `http` for a
 * program that says no name. Names travel as encoded text, since headers hold no other letters.
 */
export function whoOf(request: Request): string {
  const said = request.headers.get("x-trialmoor-who");
  if (said === null) return "http";
  try {
    return decodeURIComponent(said).trim().slice(0, MOST_NAME);
  } catch {
    // Not encoded: as it came.
    return said.trim().slice(0, MOST_NAME);
  }
}
