import { importQuery, importSheet } from "@/server/changes";
import { queryOf, requireType, textOf } from "@/server/problem";
import { route } from "@/server/route";
import { whoOf } from "@/server/who";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    requireType(request, /^text\/(csv|tab-separated-values|plain)/, "text/csv");
    const query = queryOf(request, importQuery);
    return importSheet((await params).id, await textOf(request), query, whoOf(request));
  },
});
