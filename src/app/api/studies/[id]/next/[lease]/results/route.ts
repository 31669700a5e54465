import { actorOf } from "@/server/actor";
import { answerSchema, takeResults } from "@/server/leases";
import { keyOf, printedOr } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; lease: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const { id, lease } = await params;
    const sent = await printedOr(request, answerSchema);
    return takeResults(id, lease, sent, (holder) => actorOf(request, holder), keyOf(request));
  },
});
