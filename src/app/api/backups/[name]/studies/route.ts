import { lookInto } from "@/server/backups";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ name: string }> }>({
  GET: async (_request, { params }) => lookInto((await params).name),
});
