import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "antd/dist/antd.css";
import "@/ui/theme/global.css";
import { SaidRegion } from "@/ui/parts/say";
import { StyleNonce } from "@/ui/theme/nonce";
import { Themed } from "@/ui/theme/themed";

export const metadata: Metadata = {
  title: "Trialmoor",
  description: "Plan trials, see which factors matter, find the settings to run at.",
};

export default async function Layout({ children }: { children: ReactNode }) {
  // The server sets the policy of each answer; its nonce makes every page one of its own.
  const nonce = /'nonce-([^']+)'/.exec((await headers()).get("content-security-policy") ?? "")?.[1];
  return (
    <html lang="en">
      <body>
        {nonce && <StyleNonce nonce={nonce} />}
        <Themed>
          {children}
          <SaidRegion />
        </Themed>
      </body>
    </html>
  );
}
