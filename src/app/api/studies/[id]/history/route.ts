import { historyCsv, historyQuery, listHistory } from "@/server/history";
import { queryOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  async GET(request, { params }) {
    const { id } = await params;
    const query = queryOf(request, historyQuery);
    if (query.format !== "csv") return listHistory(id, query);
    return new Response(await historyCsv(id, query), {
      headers: {
        "content-type": "text/csv; charset=utf-8",
        "content-disposition": `attachment; filename="history-${id}.csv"`,
      },
    });
  },
});
