/** Who asks, as the server found out before the application hears of it. */
export interface Session {
  role: "desk" | "bench";
  /** Under which changes stand; empty where nobody said one. */
  name: string;
  /** The study whose bench it is. */
  study?: string;
  /** Whether people sign in here: the server is open to a network. */
  opened: boolean;
}

/** Most characters of a name. */
export const MOST_NAME = 60;

/** Headers by which the server tells the application; what a client sends under these names never gets there. */
export const SESSION = "x-trialmoor-session";
export const CLIENT = "x-trialmoor-client";

/** At this machine, where nobody signs in. */
export const HERE: Session = { role: "desk", name: "", opened: false };

export const asHeader = (session: Session): string => encodeURIComponent(JSON.stringify(session));

/** Who asks; undefined for somebody that an open server does not know. */
export function sessionOf(headers: Pick<Headers, "get">): Session | undefined {
  const said = headers.get(SESSION);
  return said === null ? undefined : (JSON.parse(decodeURIComponent(said)) as Session);
}

/** The address by which the server was asked, so that links lead back by the same way. */
export const originOf = (headers: Pick<Headers, "get">): string =>
  `${headers.get("x-forwarded-proto") ?? "http"}://${headers.get("host") ?? "127.0.0.1"}`;
