import { importSheet } from "@/server/changes";
import { Problem, requireType, textOf } from "@/server/problem";
import { route } from "@/server/route";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    requireType(request, /^text\/(csv|tab-separated-values|plain)/, "text/csv");
    const query = new URL(request.url).searchParams;
    const revision = query.get("revision");
    if (query.get("dry") !== "1" && !/^[1-9]\d*$/.test(revision ?? ""))
      throw new Problem("missing", {}, { path: ["revision"] });
    const revisionSeen = query.get("dry") === "1" ? undefined : Number(revision);
    return importSheet((await params).id, await textOf(request), revisionSeen, whoOf(request));
  },
});
