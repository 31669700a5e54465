import * as z from "zod";
import { changeSchemas } from "@/server/changes";
import { bodyOf } from "@/server/problem";
import { revision } from "@/server/questions";
import { route } from "@/server/route";
import { changeStudy, deleteStudy, readStudy } from "@/server/studies";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  GET: async (_request, { params }) => readStudy((await params).id),
  async PATCH(request, { params }) {
    const { revision: revisionSeen, edits, what } = await bodyOf(request, changeSchemas.edits);
    const { id, revision: next } = await changeStudy(
      (await params).id,
      revisionSeen,
      edits,
      what ?? "edited",
      whoOf(request),
    );
    return { id, revision: next };
  },
  async DELETE(request, { params }) {
    const body = await bodyOf(request, z.strictObject({ revision }));
    return deleteStudy((await params).id, body.revision, whoOf(request));
  },
});
