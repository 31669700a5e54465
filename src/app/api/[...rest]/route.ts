import { Problem } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

const nothing = async (request: Request): Promise<object> => {
  throw new Problem("no-address", { address: new URL(request.url).pathname });
};

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: nothing,
  POST: nothing,
  PUT: nothing,
  PATCH: nothing,
  DELETE: nothing,
});
