/** The server: opens the data folder, then listens. Started by `npm start`, by the browser tests and by the bench. */
import { randomBytes } from "node:crypto";
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import next from "next";
import { database } from "./database";
import { StartError } from "./folder";
import { guard, hostsAnswered, securityHeaders } from "./guard";
import { keepHouse } from "./housekeeping";
import { log } from "./log";
import { Problem, problemDocument } from "./problem";
import { seedExamples } from "./studies";

const hostname = "127.0.0.1";
const port = Number(process.env.PORT ?? 4270);

/** Says why the server cannot start, and ends. */
function refuse(error: unknown): never {
  const taken = (error as { code?: string }).code === "EADDRINUSE";
  const known = taken ? new StartError("port-taken", { port }) : error;
  console.error(known instanceof StartError ? known.message : known);
  process.exit(1);
}

function send(response: ServerResponse, problem: Problem): void {
  const { status, headers, body } = problemDocument(problem);
  response.writeHead(status, headers).end(JSON.stringify(body));
}

async function start(): Promise<void> {
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new StartError("bad-port", { port: String(process.env.PORT) });
  await database();
  await seedExamples();
  const app = next({ dev: false, hostname, port, dir: process.cwd() });
  await app.prepare();
  const handle = app.getRequestHandler();
  const hosts = hostsAnswered(port, process.env.TRIALMOOR_NAMES);
  const answer = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const headers = securityHeaders(randomBytes(16).toString("base64"));
    for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
    try {
      guard(request, hosts);
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
  const server = createServer((request, response) => void answer(request, response));
  server.on("error", refuse);
  server.listen(port, hostname, () => console.log(`Trialmoor is at http://${hostname}:${port}`));
  const leaveHouse = keepHouse();
  const stop = (): void => {
    leaveHouse();
    server.close();
    server.closeAllConnections();
    database()
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
