"use client";
import { Collapse } from "antd";
import type { ReactNode } from "react";

/** What opens below its heading; built when first opened. */
export const Fold = ({ title, children, className }: { title: ReactNode; children: ReactNode; className?: string }) => (
  <Collapse
    ghost
    size="small"
    className={className ? `fold ${className}` : "fold"}
    items={[{ key: "0", label: title, children }]}
  />
);
