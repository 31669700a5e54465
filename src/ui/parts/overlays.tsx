"use client";
import type { DropdownProps, ModalProps, PopoverProps } from "antd";
import { cloneElement, lazy, type ReactElement, Suspense, useEffect, useState } from "react";

/*
 * Dialogs and menus are fetched when a page stands, not with it: what a person sees first does not wait for what
 * they may open later.
 */
const shelf = () => import("./lazy-antd");
const LazyModal = lazy(() => shelf().then((m) => ({ default: m.Modal })));
const LazyPopover = lazy(() => shelf().then((m) => ({ default: m.Popover })));
const LazyDropdown = lazy(() => shelf().then((m) => ({ default: m.Dropdown })));

/** Fetches the overlays, and what else a page may open later, once the browser has nothing better to do. */
export function usePrefetched(...parts: (() => Promise<unknown>)[]): void {
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, as the page stands; parts do not change.
  useEffect(() => {
    const idle = setTimeout(() => {
      // What cannot be fetched now is fetched when it is opened.
      for (const part of [shelf, ...parts]) part().catch(() => undefined);
    }, 1200);
    return () => clearTimeout(idle);
  }, []);
}

/** A dialog; nothing until it is first opened. */
export function Modal(props: ModalProps) {
  const [wanted, setWanted] = useState(props.open);
  if (props.open && !wanted) setWanted(true);
  if (!wanted) return null;
  return (
    <Suspense fallback={null}>
      <LazyModal {...props} />
    </Suspense>
  );
}

/** A panel at a trigger that is open already; the trigger alone until the panel is there. */
export const Popover = ({ children, ...props }: PopoverProps & { children: ReactElement }) => (
  <Suspense fallback={children}>
    <LazyPopover {...props}>{children}</LazyPopover>
  </Suspense>
);

/** A menu at a button; built when first asked for, so that a table of a thousand buttons costs a thousand buttons. */
export function Dropdown({ children, ...props }: DropdownProps & { children: ReactElement<{ onClick?: () => void }> }) {
  const [open, setOpen] = useState<boolean | undefined>(undefined);
  if (open === undefined) return cloneElement(children, { onClick: () => setOpen(true) });
  return (
    <Suspense fallback={children}>
      <LazyDropdown {...props} autoFocus open={open} onOpenChange={setOpen}>
        {children}
      </LazyDropdown>
    </Suspense>
  );
}
