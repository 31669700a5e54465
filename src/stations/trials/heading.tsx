"use client";
import { Button, Progress, Segmented } from "antd";
import { lazy, type ReactNode, Suspense, useState } from "react";
import type { Study } from "@/core/study";
import { Dropdown } from "@/ui/parts/overlays";
import type { LeaseState } from "./use-leases";

// Fetched when they are asked for.
const Tablets = lazy(() => import("./tablets"));
const Machines = lazy(() => import("./machines"));

export type Order = "run" | "standard";

/** A virtual process at work, and a way to stop it. */
export const Running = ({ done, total, stop }: { done: number; total: number; stop(): void }) => (
  <span className="row" role="status">
    <Progress
      percent={(100 * done) / Math.max(1, total)}
      showInfo={false}
      size="small"
      style={{ width: 120 }}
      aria-label="Share of trials run"
    />
    <span className="small">
      rig: {done} of {total}
    </span>
    <Button size="small" onClick={stop}>
      Stop, keep these
    </Button>
  </span>
);

/** Ways to the machine and back: beside it, taken along, by programs and rigs, by files. */
export function Heading({
  id,
  study,
  lending,
  by,
  setBy,
  bring,
  children,
}: {
  id: string;
  study: Study;
  lending: LeaseState;
  /** In which order the ledger stands. */
  by: Order;
  setBy(by: Order): void;
  /** Opens what takes results from a sheet. */
  bring(): void;
  children: ReactNode;
}) {
  const [open, setOpen] = useState<"tablets" | "machines" | undefined>(undefined);
  const close = (): void => setOpen(undefined);
  const file = `/api/studies/${id}/export?format=`;
  return (
    <div className="row grow" style={{ flexWrap: "wrap" }}>
      <Segmented<Order>
        size="small"
        aria-label="Order of the ledger"
        value={by}
        options={[
          { value: "run", label: "as run" },
          { value: "standard", label: "standard" },
        ]}
        onChange={setBy}
      />
      <span className="grow" />
      <Button href={`/studies/${id}/bench`} title="One trial at a time, large, beside the machine">
        At the bench
      </Button>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "paper", label: <a href={`/studies/${id}/paper`}>On paper: run sheets and cards</a> },
            { key: "tablets", label: "Tablets that open the bench", onClick: () => setOpen("tablets") },
          ],
        }}
      >
        <Button>Take along ▾</Button>
      </Dropdown>
      <Button onClick={() => setOpen("machines")} title="Let a program, such as a simulation, or a rig run the trials">
        By a program or rig
      </Button>
      <Button onClick={bring}>Paste or import</Button>
      <Dropdown
        trigger={["click"]}
        menu={{
          items: [
            { key: "csv", label: <a href={`${file}csv`}>Ledger as CSV</a> },
            { key: "xlsx", label: <a href={`${file}xlsx`}>Study as a workbook: question, plans, ledger, models</a> },
          ],
        }}
      >
        <Button>Export ▾</Button>
      </Dropdown>
      {children}
      <Suspense fallback={null}>
        {open === "tablets" && <Tablets id={id} close={close} />}
        {open === "machines" && <Machines id={id} study={study} lending={lending} close={close} />}
      </Suspense>
    </div>
  );
}
