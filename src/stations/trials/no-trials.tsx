"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useDesk } from "@/ui/desk/store";
import { FirstLook } from "@/ui/shell/first-look";

/** In place of a ledger while there are no trials: how they come to be. */
export function NoTrials({ asked }: { asked: boolean }) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  return (
    <FirstLook
      station="trials"
      title="No trials yet"
      text="The ledger fills when a plan is adopted: each trial with its settings, in a random order that is kept."
    >
      <Button type="primary" onClick={() => router.push(`/studies/${id}/plan`)}>
        Weigh plans
      </Button>{" "}
      {!asked && <Button onClick={() => router.push(`/studies/${id}/question#sheet`)}>Start from a sheet</Button>}
    </FirstLook>
  );
}
