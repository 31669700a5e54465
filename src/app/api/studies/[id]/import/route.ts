import { actorOf } from "@/server/actor";
import { importQuery, importSheet } from "@/server/changes";
import { TEXT_SHEET, XLSX } from "@/server/guard";
import { bytesOf, queryOf, requireType, textOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const query = queryOf(request, importQuery);
    const book = request.headers.get("content-type") === XLSX;
    if (!book) requireType(request, TEXT_SHEET, `text/csv, or ${XLSX}`);
    const sheet = book ? await bytesOf(request) : await textOf(request);
    return importSheet((await params).id, sheet, query, actorOf(request));
  },
});
