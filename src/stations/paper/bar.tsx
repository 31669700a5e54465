"use client";
import { Button, Segmented } from "antd";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { named, Pick } from "@/ui/parts/pick";

/** What is printed, and on what; not printed itself. */
export function Bar({
  id,
  waves,
  wave,
  as,
  size,
  only,
}: {
  id: string;
  waves: readonly { id: string; name: string }[];
  wave: string;
  as: "sheet" | "cards";
  size: "a4" | "letter";
  only: "all" | "left";
}) {
  const router = useRouter();
  const go = (change: Record<string, string>): void =>
    router.replace(`?${new URLSearchParams({ wave, as, size, only, ...change })}`);
  return (
    <div className="bar" data-print="no">
      <Link href={`/studies/${id}/trials`} className="link">
        Back to Trials
      </Link>
      <Pick label="Wave" value={wave} options={named(waves)} set={(w) => go({ wave: w })} />
      <Segmented
        aria-label="What is printed"
        value={as}
        options={[
          { value: "sheet", label: "run sheet" },
          { value: "cards", label: "cards" },
        ]}
        onChange={(value) => go({ as: value })}
      />
      <Segmented
        aria-label="Paper"
        value={size}
        options={[
          { value: "a4", label: "A4" },
          { value: "letter", label: "Letter" },
        ]}
        onChange={(value) => go({ size: value })}
      />
      <Segmented
        aria-label="Which trials"
        value={only}
        options={[
          { value: "all", label: "all trials" },
          { value: "left", label: "what is left" },
        ]}
        onChange={(value) => go({ only: value })}
      />
      <Button type="primary" onClick={() => window.print()}>
        Print
      </Button>
    </div>
  );
}
