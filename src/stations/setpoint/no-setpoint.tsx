"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import type { Study } from "@/core/study";
import { useDesk } from "@/ui/desk/store";
import { FirstLook } from "@/ui/shell/first-look";

/** In place of wishes and maps while goals or models are missing: why, and what to do first. */
export function NoSetpoint({ study, why }: { study: Study; why: string }) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const wished = study.responses.some((r) => r.goal.aim !== "watch");
  return (
    <FirstLook station="setpoint" title="A setpoint needs goals and models" text={why}>
      <Button type="primary" onClick={() => router.push(`/studies/${id}/${wished ? "model" : "question"}`)}>
        {wished ? "Choose models" : "Set goals"}
      </Button>
    </FirstLook>
  );
}
