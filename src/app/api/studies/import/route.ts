import * as z from "zod";
import { actorOf } from "@/server/actor";
import { bodyOf, keyOf } from "@/server/problem";
import { route } from "@/server/route";
import { importFile } from "@/server/studies";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  POST: async (request) =>
    Response.json(await importFile(await bodyOf(request, z.unknown()), actorOf(request), keyOf(request)), {
      status: 201,
    }),
});
