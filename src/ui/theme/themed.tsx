"use client";
import { ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { theme } from "./antd-theme";

/** Whatever stands inside is drawn in our tokens. */
export const Themed = ({ children }: { children: ReactNode }) => (
  <ConfigProvider theme={theme} wave={{ disabled: true }} button={{ autoInsertSpace: false }}>
    {children}
  </ConfigProvider>
);
