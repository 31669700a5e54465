import { XLSX } from "@/server/guard";
import { writtenAside } from "@/server/pool";
import { Problem } from "@/server/problem";
import { route } from "@/server/route";
import { rawStudy, readStudy } from "@/server/studies";

export const dynamic = "force-dynamic";

const fileName = (title: string): string =>
  title
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "") || "study";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  GET: async (request, { params }) => {
    const { id } = await params;
    const format = new URL(request.url).searchParams.get("format") ?? "json";
    if (format === "raw")
      return Response.json(await rawStudy(id), {
        headers: { "content-disposition": `attachment; filename="study-${id}.raw.json"` },
      });
    const { study } = await readStudy(id);
    const attachment = (end: string): string => `attachment; filename="${fileName(study.title)}${end}"`;
    if (format === "csv")
      return new Response(await writtenAside(study, "csv"), {
        headers: { "content-type": "text/csv; charset=utf-8", "content-disposition": attachment(".csv") },
      });
    if (format === "xlsx")
      return new Response(Buffer.from(await writtenAside(study, "xlsx")), {
        headers: { "content-type": XLSX, "content-disposition": attachment(".xlsx") },
      });
    if (format === "json")
      return new Response(await writtenAside(study, "json"), {
        headers: { "content-type": "application/json", "content-disposition": attachment(".trialmoor.json") },
      });
    throw new Problem("bad-format", { format }, { path: ["format"] });
  },
});
