"use client";
import { ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { theme } from "./antd-theme";
import { useNonce } from "./nonce";

/** Whatever stands inside is drawn in our tokens. */
export function Themed({ children }: { children: ReactNode }) {
  const nonce = useNonce();
  return (
    <ConfigProvider theme={theme} wave={{ disabled: true }} {...(nonce ? { csp: { nonce } } : {})}>
      {children}
    </ConfigProvider>
  );
}
