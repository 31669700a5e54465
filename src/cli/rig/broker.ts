import { createServer, type Server } from "node:net";
import { Aedes } from "aedes";

/** A small broker for trying rigs out and for tests; it speaks MQTT 3.1.1. */
export interface Broker {
  port: number;
  /** Cuts every connection, as a network that fails. */
  cut(): void;
  close(): Promise<void>;
}

/**
 * Starts a broker at this machine.
 *
 * @param port 0 for one that is free
 * @param access who is let in; everybody unless said
 */
export async function startBroker(port: number, access?: { username: string; password: string }): Promise<Broker> {
  const aedes = await Aedes.createBroker(
    access
      ? {
          authenticate: (_client, username, password, done) =>
            done(null, username === access.username && String(password) === access.password),
        }
      : {},
  );
  const server: Server = createServer(aedes.handle);
  const sockets = new Set<import("node:net").Socket>();
  server.on("connection", (socket) => {
    sockets.add(socket);
    socket.on("close", () => sockets.delete(socket));
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", reject);
    server.listen(port, "127.0.0.1", resolve);
  });
  return {
    port: (server.address() as { port: number }).port,
    cut() {
      for (const socket of sockets) socket.destroy();
    },
    async close() {
      for (const socket of sockets) socket.destroy();
      await new Promise<void>((resolve) => aedes.close(() => server.close(() => resolve())));
    },
  };
}
