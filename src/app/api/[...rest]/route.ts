import { Problem } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

const nothing = async (request: Request): Promise<object> => {
  throw new Problem(
    404,
    "no-address",
    `There is nothing at ${new URL(request.url).pathname}; /api/openapi.json describes what there is.`,
  );
};

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: nothing,
  POST: nothing,
  PUT: nothing,
  PATCH: nothing,
  DELETE: nothing,
});
