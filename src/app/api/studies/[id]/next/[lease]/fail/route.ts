import { actorOf } from "@/server/actor";
import { failSchema, takeFailure } from "@/server/leases";
import { keyOf, printedOr } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; lease: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(request, { params }) {
    const { id, lease } = await params;
    const sent = await printedOr(request, failSchema);
    const reason = "text" in sent ? sent.text.trim() || "it failed without a word" : sent.data.reason;
    return takeFailure(id, lease, reason, (holder) => actorOf(request, holder), keyOf(request));
  },
});
