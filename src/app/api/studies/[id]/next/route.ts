import { lendingSchema, lendNext, nextSchema, setLeasing, watchLeases, watchQuery } from "@/server/leases";
import { bodyOf, queryOf } from "@/server/problem";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async GET(request, { params }) {
    return watchLeases((await params).id, queryOf(request, watchQuery));
  },
  async POST(request, { params }) {
    const lent = await lendNext((await params).id, await bodyOf(request, nextSchema));
    if (lent && "lease" in lent) return lent;
    return new Response(null, { status: 204, headers: lent ? { "retry-after": String(lent.again) } : {} });
  },
  async PUT(request, { params }) {
    return setLeasing((await params).id, await bodyOf(request, lendingSchema));
  },
});
