"use client";
import { type RefObject, useEffect, useRef, useState } from "react";

/** Size of an element as the page lays it out, followed as it changes. */
export function useSize<E extends HTMLElement>(start: {
  width: number;
  height: number;
}): [RefObject<E | null>, { width: number; height: number }] {
  const ref = useRef<E>(null);
  const [size, setSize] = useState(start);
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) =>
      setSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) }),
    );
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [ref, size];
}
