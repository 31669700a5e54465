"use client";
import { App } from "antd";
import { useEffect } from "react";
import type { Saying } from "./say";

export { Dropdown, Modal, Popover } from "antd";

/** Says sentences by the component library's messages; at most two stand at a time. */
function Speaker({ ready }: { ready(speak: (saying: Saying) => void): void }) {
  const { message } = App.useApp();
  useEffect(
    () =>
      ready(({ text, kind }) => {
        void message.open({ type: kind === "done" ? "success" : "warning", content: text, duration: 6 });
      }),
    [message, ready],
  );
  return null;
}

export const Messages = ({ ready }: { ready(speak: (saying: Saying) => void): void }) => (
  <App component={false} message={{ maxCount: 2, top: 108 }}>
    <Speaker ready={ready} />
  </App>
);
