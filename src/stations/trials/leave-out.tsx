// biome-ignore-all lint/a11y/noAutofocus: a question that opens by a key must hold the cursor.
"use client";
import { Input } from "antd";
import { useState } from "react";
import type { Trial } from "@/core/study";
import { Modal } from "@/ui/parts/overlays";

/** Asks why a trial is left out of models. */
export function LeaveOut({ trial, leave, close }: { trial: Trial; leave(why: string): void; close(): void }) {
  const [why, setWhy] = useState("");
  const done = (): void => {
    if (why.trim() === "") return;
    leave(why.trim());
    close();
  };
  return (
    <Modal
      open
      title={`Leave trial ${trial.order} out of models`}
      okText="Leave it out"
      cancelText="Keep it in"
      okButtonProps={{ disabled: why.trim() === "" }}
      onOk={done}
      onCancel={close}
    >
      <p style={{ marginBottom: 8 }}>It stays in the ledger with its results. Say why, so that the report can.</p>
      <Input
        style={{ width: "100%" }}
        aria-label="Reason"
        placeholder="such as: valve stuck half open"
        maxLength={400}
        autoFocus
        value={why}
        onChange={(e) => setWhy(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") done();
        }}
      />
    </Modal>
  );
}
