import { checkHealth } from "@/server/health";
import { route } from "@/server/route";

export const dynamic = "force-dynamic";

export const { GET, POST, PUT, PATCH, DELETE } = route({ GET: async () => checkHealth() });
