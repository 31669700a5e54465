import * as z from "zod";
import { answering, bodyOf } from "@/server/problem";
import { importFile } from "@/server/studies";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

export const POST = (request: Request): Promise<Response> =>
  answering(async () =>
    Response.json(await importFile(await bodyOf(request, z.unknown()), whoOf(request)), { status: 201 }),
  );
