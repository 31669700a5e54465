"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useDesk } from "@/ui/desk/store";

/** In place of a ladder while there is no model: why, and what to do first. */
export function NoModel({ name, why, ran }: { name: string; why: string; ran: boolean }) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  return (
    <div style={{ border: "1px dashed #bdb49d", borderRadius: 6, padding: 24, maxWidth: 520 }}>
      <h2>No model of {name} yet</h2>
      <p style={{ margin: "6px 0 12px" }}>{why}</p>
      <Button type="primary" onClick={() => router.push(`/studies/${id}/${ran ? "trials" : "plan"}`)}>
        {ran ? "Enter results" : "Weigh plans"}
      </Button>
    </div>
  );
}
