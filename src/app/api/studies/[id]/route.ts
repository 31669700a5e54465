import * as z from "zod";
import { actorOf } from "@/server/actor";
import { changeSchemas } from "@/server/changes";
import { bodyOf } from "@/server/problem";
import { revision } from "@/server/questions";
import { route } from "@/server/route";
import { changeStudy, deleteStudy, mergeIntoStudy, readStudy } from "@/server/studies";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  GET: async (_request, { params }) => readStudy((await params).id),
  async PATCH(request, { params }) {
    const { revision: seen, edits, what = "edited", merge } = await bodyOf(request, changeSchemas.edits);
    const { id } = await params;
    if (merge === true) return mergeIntoStudy(id, seen, edits, what, actorOf(request));
    const { revision: next } = await changeStudy(id, seen, edits, what, actorOf(request));
    return { id, revision: next };
  },
  async DELETE(request, { params }) {
    const body = await bodyOf(request, z.strictObject({ revision }));
    return deleteStudy((await params).id, body.revision, actorOf(request));
  },
});
