import { readJob, stopJob } from "@/server/jobs";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route<{ params: Promise<{ id: string }> }>({
  GET: async (_request, { params }) => readJob((await params).id),
  DELETE: async (_request, { params }) => stopJob((await params).id),
});
