import type { Metadata } from "next";
import { headers } from "next/headers";
import type { ReactNode } from "react";
import "@/ui/theme/global.css";
import { SaidRegion } from "@/ui/parts/say";
import { StyleNonce } from "@/ui/theme/nonce";

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
        {children}
        <SaidRegion />
      </body>
    </html>
  );
}
