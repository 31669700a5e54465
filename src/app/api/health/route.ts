import { isLoopback } from "@/server/access/opening";
import { CLIENT, sessionOf } from "@/server/access/session";
import { checkHealth } from "@/server/health";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async ({ headers }) =>
    checkHealth(sessionOf(headers) !== undefined || isLoopback(headers.get(CLIENT) ?? "127.0.0.1")),
});
