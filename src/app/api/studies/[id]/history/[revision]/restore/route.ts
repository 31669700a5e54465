import * as z from "zod";
import { actorOf } from "@/server/actor";
import { bringBack } from "@/server/history";
import { bodyOf, revisionIn } from "@/server/problem";
import { revision } from "@/server/questions";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string; revision: string }> }>({
  async POST(request, { params }) {
    const { id, revision: past } = await params;
    const body = await bodyOf(request, z.strictObject({ revision }));
    return bringBack(id, revisionIn(past), body.revision, actorOf(request));
  },
});
