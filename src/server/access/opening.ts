import { readFileSync } from "node:fs";
import { BlockList, isIP } from "node:net";
import { createSecureContext } from "node:tls";
import { StartError } from "../folder";

const LOOPBACK = new BlockList();
LOOPBACK.addSubnet("127.0.0.0", 8);
LOOPBACK.addAddress("::1", "ipv6");
/** Addresses that stand for all of a machine's. */
const ALL = new Set(["0.0.0.0", "::"]);

/** Whether an address is this machine's own, also as one of IPv6 that holds one of IPv4. */
export function isLoopback(address: string): boolean {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, "");
  const kind = isIP(plain);
  return kind !== 0 && LOOPBACK.check(plain, kind === 4 ? "ipv4" : "ipv6");
}

/** How the server is reached. */
export interface Opening {
  /** The address it listens on. */
  host: string;
  /** Others than this machine can reach it: they sign in first. */
  opened: boolean;
  /** A proxy on this machine says who asks, and ends the encryption. */
  proxy: boolean;
  tls?: { key: Buffer; cert: Buffer };
  /** Names it is called by, beside this machine's own. */
  names: string[];
}

type Environment = Record<string, string | undefined>;

/** Key and certificate, read and held against one another. @throws StartError `tls-half`, `tls-unreadable` */
function readTls({ TRIALMOOR_TLS_KEY: keyPath, TRIALMOOR_TLS_CERT: certPath }: Environment): Opening["tls"] {
  if (!keyPath && !certPath) return undefined;
  if (!keyPath || !certPath) throw new StartError("tls-half", {});
  try {
    const tls = {
      key: readFileSync(/* turbopackIgnore: true */ keyPath),
      cert: readFileSync(/* turbopackIgnore: true */ certPath),
    };
    createSecureContext(tls);
    return tls;
  } catch (error) {
    throw new StartError("tls-unreadable", { what: (error as Error).message });
  }
}

/** The names that people call the server by, as they were configured. */
const namesIn = (env: Environment): string[] =>
  (env.TRIALMOOR_NAMES ?? "")
    .split(",")
    .map((n) => n.trim().toLowerCase())
    .filter(Boolean);

/**
 * Where another device finds the server: the address by which it was asked, but for this machine's own, which leads
 * nowhere from elsewhere. There the first configured name stands in its place.
 *
 * @param origin by which the server was asked
 * @returns with `here` where only this machine gets there
 */
export function reachedAt(origin: string, env: Environment = process.env): { origin: string; here: boolean } {
  const url = new URL(origin);
  const own = url.hostname === "localhost" || isLoopback(url.hostname.replace(/^\[|\]$/g, ""));
  if (!own) return { origin, here: false };
  const [name] = namesIn(env);
  if (name === undefined) return { origin, here: true };
  url.hostname = name;
  return { origin: url.origin, here: false };
}

/**
 * What the environment asks of the server: this machine alone, or open to a network, which takes encryption, here or
 * by a proxy, and names.
 * @throws StartError `not-encrypted`, `no-names`, `tls-half`, `tls-unreadable`, `bad-proxy`
 */
export function readOpening(env: Environment = process.env): Opening {
  const { TRIALMOOR_HOST: host = "127.0.0.1", TRIALMOOR_PROXY: proxySaid = "" } = env;
  if (!["", "0", "1"].includes(proxySaid)) throw new StartError("bad-proxy", { text: proxySaid });
  const proxy = proxySaid === "1";
  const reached = host !== "localhost" && !isLoopback(host);
  const tls = readTls(env);
  const names = namesIn(env);
  if (reached && !tls && !proxy) throw new StartError("not-encrypted", { host });
  const opened = reached || proxy;
  // An address of its own is a name too; one that stands for all of them is none.
  if (reached && !ALL.has(host)) names.push(isIP(host) === 6 ? `[${host}]` : host.toLowerCase());
  if (opened && names.length === 0) throw new StartError("no-names", { host });
  return { host, opened, proxy, names, ...(tls ? { tls } : {}) };
}
