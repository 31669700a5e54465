import { route } from "@/server/route";
import { exampleNames } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  GET: async () => exampleNames(),
});
