import type { Metadata } from "next";
import type { ReactNode } from "react";
import "@/ui/theme/global.css";
import { SaidRegion } from "@/ui/parts/say";

export const metadata: Metadata = {
  title: "Trialmoor",
  description: "Plan trials, see which factors matter, find the settings to run at.",
};

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en">
      <body>
        {children}
        <SaidRegion />
      </body>
    </html>
  );
}
