"use client";
import { Button } from "antd";
import { useRouter } from "next/navigation";
import type { FitResult } from "@/core/questions";
import { useDesk } from "@/ui/desk/store";
import { FirstLook } from "@/ui/shell/first-look";

/** In place of a ladder while there is no model: why, and what to do first. */
export function NoModel({
  name,
  result,
  ran,
}: {
  /** Of the response; none where none is named yet. */
  name: string | undefined;
  result: FitResult | undefined;
  ran: boolean;
}) {
  const id = useDesk((d) => d.id);
  const router = useRouter();
  const first = name === undefined ? "question" : ran ? "trials" : "plan";
  return (
    <FirstLook
      station="model"
      title={name === undefined ? "No models yet" : `No model of ${name} yet`}
      text={
        name === undefined
          ? "A response with a few results shows here which factors move it, and how sure that is."
          : result && !result.ok && result.refused.message
      }
    >
      <Button type="primary" onClick={() => router.push(`/studies/${id}/${first}`)}>
        {name === undefined ? "Name a response" : ran ? "Enter results" : "Weigh plans"}
      </Button>
    </FirstLook>
  );
}
