"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import type { FitResult } from "@/core";
import { useDesk } from "@/ui/desk/store";

/** In place of a ladder while there is no model: why, and what to do first. */
export function NoModel({ name, result, ran }: { name: string; result: FitResult | undefined; ran: boolean }) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  return (
    <div style={{ border: "1px dashed #bdb49d", borderRadius: 6, padding: 24, maxWidth: 520 }}>
      <h2>No model of {name} yet</h2>
      <p style={{ margin: "6px 0 12px" }}>{result && !result.ok && result.refused.message}</p>
      <Button type="primary" onClick={() => router.push(`/studies/${id}/${ran ? "trials" : "plan"}`)}>
        {ran ? "Enter results" : "Weigh plans"}
      </Button>
    </div>
  );
}
