import * as z from "zod";
import { answering, bodyOf } from "@/server/problem";
import { changeStudy, deleteStudy, readStudy } from "@/server/studies";
import { verbSchemas } from "@/server/verbs";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const GET = (_request: Request, { params }: Context): Promise<Response> =>
  answering(async () => readStudy((await params).id));

export const PATCH = (request: Request, { params }: Context): Promise<Response> =>
  answering(async () => {
    const { revision, edits, what } = await bodyOf(request, verbSchemas.edits);
    const { id, revision: next } = await changeStudy(
      (await params).id,
      revision,
      edits,
      what ?? "edited",
      whoOf(request),
    );
    return { id, revision: next };
  });

export const DELETE = (request: Request, { params }: Context): Promise<Response> =>
  answering(async () => {
    const { revision } = await bodyOf(request, z.strictObject({ revision: z.number().int().positive() }));
    return deleteStudy((await params).id, revision, whoOf(request));
  });
