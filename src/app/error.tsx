"use client";
import { Button } from "antd";
import { Masthead } from "@/ui/shell/masthead";

export default function ErrorPage({ reset }: { error: Error; reset(): void }) {
  return (
    <main style={{ padding: "28px 64px", maxWidth: 560 }}>
      <Masthead />
      <h1>This page could not be drawn</h1>
      <p style={{ margin: "12px 0 20px" }}>
        Your data are safe: whatever was said to be saved is on disk. Try again; if it fails again, the browser's
        console holds the reason.
      </p>
      <Button type="primary" onClick={reset}>
        Try again
      </Button>
    </main>
  );
}
