"use client";
import { Segmented } from "antd";
import { useState } from "react";
import type { Study } from "@/core/study";
import { Modal } from "@/ui/parts/overlays";
import { Programs } from "./programs";
import { Rigs } from "./rigs";
import type { LeaseState } from "./use-leases";

type Kind = "program" | "rig";

/** What else may run the waiting trials: a program, or a rig with a controller. */
export default function Machines({
  id,
  study,
  lending,
  close,
}: {
  id: string;
  study: Study;
  lending: LeaseState;
  close(): void;
}) {
  const own = lending.now?.rigs?.rigs.some((r) => r.study === id);
  const [kind, setKind] = useState<Kind>(own ? "rig" : "program");
  return (
    <Modal
      open
      footer={null}
      onCancel={close}
      title={kind === "program" ? "Let a program run these" : "Let a rig run these"}
      width={860}
    >
      <Segmented<Kind>
        aria-label="What runs the trials"
        value={kind}
        options={[
          { value: "program", label: "A program" },
          { value: "rig", label: "A rig" },
        ]}
        onChange={setKind}
        style={{ marginBottom: 12 }}
      />
      {kind === "program" ? <Programs id={id} study={study} lending={lending} /> : <Rigs id={id} lending={lending} />}
    </Modal>
  );
}
