import { keepingChange, readKeeping, setKeeping } from "@/server/keeping";
import { bodyOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: readKeeping,
  PATCH: async (request) => setKeeping(await bodyOf(request, keepingChange)),
});
