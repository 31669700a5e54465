/** The server: opens the data folder, then listens. Started by `npm start`, by the browser tests and by the bench. */
import { randomBytes } from "node:crypto";
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import { createServer as createEncrypted, type Server as Encrypted } from "node:https";
import type { TLSSocket } from "node:tls";
import next from "next";
import { admit, comesFrom, LOGIN } from "./access/gate";
import { type Opening, readOpening } from "./access/opening";
import { passphraseMark } from "./access/passphrase";
import { database } from "./database";
import { StartError } from "./folder";
import { guard, hostsAnswered, securityHeaders } from "./guard";
import { keepHouse } from "./housekeeping";
import { log } from "./log";
import { Problem, problemDocument } from "./problem";
import { keepRigs } from "./rigs/keep";
import { seedExamples } from "./studies";

const port = Number(process.env.PORT ?? 4270);

/** Says why the server cannot start, and ends. */
function refuse(error: unknown): never {
  const { code, address } = error as { code?: string; address?: string };
  const known =
    code === "EADDRINUSE"
      ? new StartError("port-taken", { port })
      : code === "EADDRNOTAVAIL" || code === "ENOTFOUND"
        ? new StartError("bad-host", { host: address ?? String(process.env.TRIALMOOR_HOST) })
        : error;
  console.error(known instanceof StartError ? known.message : known);
  process.exit(1);
}

function send(response: ServerResponse, problem: Problem): void {
  const { status, headers, body } = problemDocument(problem);
  response.writeHead(status, headers).end(JSON.stringify(body));
}

/** Where people find it: by its names where it is open to a network, else at this machine. */
const addresses = ({ host, opened, tls, names }: Opening): string[] => {
  const scheme = tls ? "https" : "http";
  if (!opened) return [`${scheme}://${host}:${port}`];
  if (!tls) return names.map((n) => `https://${n} by the proxy that asks ${host}:${port}`);
  return names.map((n) => `${scheme}://${/:\d+$/.test(n) ? n : `${n}:${port}`}`);
};

/** Whether a request wants a page to look at, not data or a part of a page. */
const wantsPage = ({ method, headers }: IncomingMessage): boolean =>
  method === "GET" && /\btext\/html\b/.test(headers.accept ?? "") && headers.rsc === undefined;

/** Shows the page to sign in at whatever address was asked for, under the status of the refusal. */
function showLogin(request: IncomingMessage, response: ServerResponse, { status }: Problem): void {
  request.url = LOGIN;
  const write = response.writeHead.bind(response) as (status: number, ...rest: unknown[]) => ServerResponse;
  response.writeHead = (_status: number, ...rest: unknown[]) => write(status, ...rest);
}

/** How long a connection that is not used is kept, in milliseconds. */
const KEPT_MS = 65_000;

/** How often key and certificate are looked at for newer ones, in milliseconds. */
const RENEWED_MS = 60_000;

/** Takes up a certificate that was renewed, without a stop; one that cannot be used is logged and not taken. */
function followCertificate(server: Encrypted, { tls }: Opening): NodeJS.Timeout {
  let last = tls;
  return setInterval(() => {
    try {
      const { tls: now } = readOpening();
      if (!now || (last?.cert.equals(now.cert) && last.key.equals(now.key))) return;
      server.setSecureContext(now);
      last = now;
    } catch (error) {
      log.error(error);
    }
  }, RENEWED_MS).unref();
}

async function start(): Promise<void> {
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new StartError("bad-port", { port: String(process.env.PORT) });
  const opening = readOpening();
  const { host: hostname, opened, tls, names } = opening;
  const { folder } = await database();
  if (opened && passphraseMark(folder) === undefined) throw new StartError("no-passphrase", { host: hostname, folder });
  await seedExamples();
  const app = next({ dev: false, hostname, port, dir: process.cwd() });
  await app.prepare();
  const handle = app.getRequestHandler();
  const hosts = hostsAnswered(port, names);
  const answer = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const headers = securityHeaders(randomBytes(16).toString("base64"));
    for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
    try {
      const { remoteAddress = "", encrypted = false } = request.socket as TLSSocket;
      comesFrom(request, remoteAddress, encrypted, opening);
      guard(request, hosts);
      await admit(request, opening).catch((error: unknown) => {
        if (!(error instanceof Problem) || !wantsPage(request)) throw error;
        showLogin(request, response, error);
      });
      // The application reads the nonce of its scripts off the policy of the request.
      request.headers["content-security-policy"] = headers["content-security-policy"];
      await handle(request, response);
    } catch (error) {
      if (!(error instanceof Problem)) log.error(error);
      const problem = error instanceof Problem ? error : new Problem("server-error.unsure", {});
      if (response.headersSent) response.destroy();
      else send(response, problem);
    }
  };
  const listener = (request: IncomingMessage, response: ServerResponse): void => void answer(request, response);
  const server = tls ? createEncrypted(tls, listener) : createServer(listener);
  if (tls) followCertificate(server as Encrypted, opening);
  server.on("error", refuse);
  // Nothing here speaks another protocol; a handle that waits for one would never end.
  server.on("upgrade", (_request, socket) => socket.destroy());
  // Programs ask every few seconds: a connection that they keep is not closed under their next request.
  server.keepAliveTimeout = KEPT_MS;
  server.listen(port, hostname, () => console.log(`Trialmoor is at ${addresses(opening).join(" and ")}`));
  const leaveHouse = keepHouse();
  const leaveRigs = keepRigs(folder);
  const stop = (): void => {
    leaveHouse();
    server.close();
    server.closeAllConnections();
    leaveRigs()
      .then(database)
      .then((db) => db.close())
      .then(
        () => process.exit(0),
        (error: unknown) => {
          log.error(error);
          process.exit(1);
        },
      );
  };
  process.on("SIGINT", stop);
  process.on("SIGTERM", stop);
}

start().catch(refuse);
