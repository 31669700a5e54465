"use client";
import type { ReactNode } from "react";

/** What is larger than its place: it scrolls, also by keys. */
export const ScrollBox = ({
  name,
  className,
  children,
}: {
  name: string;
  className?: string | undefined;
  children: ReactNode;
}) => (
  // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keys (WCAG 2.1.1).
  <section aria-label={name} className={className} tabIndex={0}>
    {children}
  </section>
);
