"use client";
import { Button } from "antd";
import { lazy, Suspense, useState } from "react";
import { useActor } from "./actor-name";

// Fetched when it is asked, once per browser.
const Asking = lazy(() => import("./ask-actor").then((m) => ({ default: m.AskActor })));

/** Asks whose name stands with changes made in this browser. */
export const AskActor = ({ close }: { close(): void }) => (
  <Suspense fallback={null}>
    <Asking close={close} />
  </Suspense>
);

/** Whose name stands with changes; pressed, it asks. */
export function Who({ className, size }: { className?: string; size?: "large" }) {
  const name = useActor();
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button
        type="text"
        {...(className ? { className } : {})}
        {...(size ? { size } : {})}
        title={name ? `Changes stand under the name ${name}` : "Changes stand under nobody's name: say yours"}
        onClick={() => setAsking(true)}
      >
        {name || "Your name?"}
      </Button>
      {asking && <AskActor close={() => setAsking(false)} />}
    </>
  );
}
