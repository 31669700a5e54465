"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useDesk } from "@/ui/desk/store";
import { FirstLook } from "@/ui/shell/first-look";
import type { Planning } from "./use-planning";

/** In place of the chart while no plan is in sight: why, and what can be done. */
export function NothingYet({ planning: { study, search, request }, bring }: { planning: Planning; bring(): void }) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const why =
    study.factors.length < 2
      ? "Plans appear here once Question lists two factors."
      : search.running
        ? "Looking at plans…"
        : (search.trouble ??
          search.step.refusals[0]?.text ??
          `No plan fits ${request.budget} trials; raise the budget.`);
  return (
    <div style={{ marginTop: 10 }}>
      <FirstLook station="plan" title={study.factors.length < 2 ? "No plans yet" : "No plan in sight"} text={why}>
        {study.factors.length >= 2 ? (
          <Button onClick={bring}>Take trials run elsewhere</Button>
        ) : (
          <>
            <Button type="primary" onClick={() => router.push(`/studies/${id}/question`)}>
              List factors
            </Button>{" "}
            {study.factors.length === 0 && (
              <Button onClick={() => router.push(`/studies/${id}/question#sheet`)}>Start from a sheet</Button>
            )}
          </>
        )}
      </FirstLook>
    </div>
  );
}
