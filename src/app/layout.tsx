import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "antd/dist/antd.css";
import "@/ui/theme/global.css";
import { HERE, sessionOf } from "@/server/access/session";
import { SaidRegion } from "@/ui/parts/say";
import { SessionProvider } from "@/ui/parts/session";
import { SessionWatch } from "@/ui/parts/session-watch";
import { StyleNonce } from "@/ui/theme/nonce";
import { Themed } from "@/ui/theme/themed";

export const metadata: Metadata = {
  title: "Trialmoor",
  description: "Plan trials, see which factors matter, find the settings to run at.",
};

export default async function Layout({ children }: { children: ReactNode }) {
  // The server sets the policy of each answer; its nonce makes every page one of its own.
  const asked = await headers();
  const nonce = /'nonce-([^']+)'/.exec(asked.get("content-security-policy") ?? "")?.[1];
  const { role, name, opened } = sessionOf(asked) ?? HERE;
  return (
    <html lang="en">
      <body>
        {nonce && <StyleNonce nonce={nonce} />}
        <Themed>
          <SessionProvider session={{ role, name, opened }}>
            {children}
            <SessionWatch />
          </SessionProvider>
          <SaidRegion />
        </Themed>
      </body>
    </html>
  );
}
