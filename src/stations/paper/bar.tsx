"use client";
import { Button, Segmented } from "antd";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { named, Pick } from "@/ui/parts/pick";

/** What can be chosen, by its part of the address. */
const CHOICES = [
  {
    key: "as",
    label: "What is printed",
    options: [
      ["sheet", "run sheet"],
      ["cards", "cards"],
    ],
  },
  {
    key: "size",
    label: "Paper",
    options: [
      ["a4", "A4"],
      ["letter", "Letter"],
    ],
  },
  {
    key: "only",
    label: "Which trials",
    options: [
      ["all", "all trials"],
      ["left", "what is left"],
    ],
  },
] as const;

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
      {CHOICES.map(({ key, label, options }) => (
        <Segmented
          key={key}
          aria-label={label}
          value={{ as, size, only }[key]}
          options={options.map(([value, text]) => ({ value, label: text }))}
          onChange={(value) => go({ [key]: value })}
        />
      ))}
      <Button type="primary" onClick={() => window.print()}>
        Print
      </Button>
    </div>
  );
}
