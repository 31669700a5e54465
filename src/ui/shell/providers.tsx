"use client";
import { App, ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { theme } from "../theme/theme";

/** Theme and messages for the whole application. */
export function Providers({ children }: { children: ReactNode }) {
  return (
    <ConfigProvider theme={theme} wave={{ disabled: true }}>
      <App message={{ maxCount: 2 }}>{children}</App>
    </ConfigProvider>
  );
}
