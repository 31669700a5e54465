import { openApi } from "@/server/openapi";

export const dynamic = "force-static";

export const GET = (): Response => Response.json(openApi());
