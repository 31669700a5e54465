"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import { useDesk } from "@/ui/desk/store";
import { FirstLook } from "@/ui/shell/first-look";
import type { Planning } from "./use-planning";

/** What most kinds of plans are refused for. */
function commonest(texts: readonly string[]): string | undefined {
  const times = (text: string): number => texts.filter((t) => t === text).length;
  return texts.reduce<string | undefined>(
    (best, t) => (best === undefined || times(t) > times(best) ? t : best),
    undefined,
  );
}

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
          commonest(search.step.refusals.map((r) => r.text)) ??
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
