import { renewLease } from "@/server/leases";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

interface Context {
  params: Promise<{ id: string; lease: string }>;
}

export const { GET, POST, PUT, PATCH, DELETE } = route<Context>({
  async POST(_request, { params }) {
    const { id, lease } = await params;
    return renewLease(id, lease);
  },
});
