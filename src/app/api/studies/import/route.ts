import * as z from "zod";
import { bodyOf, keyOf } from "@/server/problem";
import { route } from "@/server/route";
import { importFile } from "@/server/studies";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({
  POST: async (request) =>
    Response.json(await importFile(await bodyOf(request, z.unknown()), whoOf(request), keyOf(request)), {
      status: 201,
    }),
});
