"use client";
import { Collapse } from "antd";
import type { ReactNode } from "react";

/** What opens below its heading; built when first opened. */
export const Fold = ({
  title,
  children,
  className,
  open = false,
}: {
  title: ReactNode;
  children: ReactNode;
  className?: string;
  /** Open from the start. */
  open?: boolean;
}) => (
  <Collapse
    ghost
    size="small"
    className={className ? `fold ${className}` : "fold"}
    {...(open ? { defaultActiveKey: "0" } : {})}
    items={[{ key: "0", label: title, children }]}
  />
);
