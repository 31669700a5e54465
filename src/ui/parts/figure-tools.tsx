"use client";
import type { RefObject } from "react";
import { LinkButton } from "@/ui/parts/link-button";
import { colours } from "../theme/theme";
import { say } from "./say";

/** Properties a figure takes from the page's style sheets and would lose outside it. */
const CARRIED = [
  "font-family",
  "font-size",
  "font-weight",
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "text-anchor",
];

/** All drawings of a panel as one SVG, placed as they stand on the page. */
function composed(panel: HTMLElement): { text: string; width: number; height: number } | undefined {
  const drawings = [...panel.querySelectorAll("svg")].filter((s) => {
    const b = s.getBoundingClientRect();
    return b.width > 40 && b.height > 10 && !s.parentElement?.closest("svg");
  });
  if (drawings.length === 0) return undefined;
  const boxes = drawings.map((s) => s.getBoundingClientRect());
  const left = Math.min(...boxes.map((b) => b.left));
  const top = Math.min(...boxes.map((b) => b.top));
  const width = Math.ceil(Math.max(...boxes.map((b) => b.right)) - left);
  const height = Math.ceil(Math.max(...boxes.map((b) => b.bottom)) - top);
  const outer = document.createElementNS("http://www.w3.org/2000/svg", "svg");
  outer.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  outer.setAttribute("width", String(width));
  outer.setAttribute("height", String(height));
  outer.setAttribute("viewBox", `0 0 ${width} ${height}`);
  drawings.forEach((drawing, i) => {
    const copy = drawing.cloneNode(true) as SVGSVGElement;
    const from = [...drawing.querySelectorAll("text")];
    [...copy.querySelectorAll("text")].forEach((t, n) => {
      const style = getComputedStyle(from[n]);
      for (const name of CARRIED)
        if (style.getPropertyValue(name)) t.style.setProperty(name, style.getPropertyValue(name));
    });
    copy.setAttribute("x", String(boxes[i].left - left));
    copy.setAttribute("y", String(boxes[i].top - top));
    copy.setAttribute("width", String(boxes[i].width));
    copy.setAttribute("height", String(boxes[i].height));
    for (const name of ["role", "tabindex", "style", "class"]) copy.removeAttribute(name);
    outer.append(copy);
  });
  return { text: new XMLSerializer().serializeToString(outer), width, height };
}

/** The same drawing as dots, at twice its size on the page, on white. */
async function dots(drawing: { text: string; width: number; height: number }): Promise<Blob> {
  const image = new Image();
  const url = URL.createObjectURL(new Blob([drawing.text], { type: "image/svg+xml" }));
  try {
    await new Promise((done, failed) => {
      image.onload = done;
      image.onerror = failed;
      image.src = url;
    });
    const canvas = document.createElement("canvas");
    canvas.width = 2 * drawing.width;
    canvas.height = 2 * drawing.height;
    const ink = canvas.getContext("2d") as CanvasRenderingContext2D;
    ink.fillStyle = colours.raised;
    ink.fillRect(0, 0, canvas.width, canvas.height);
    ink.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((done, failed) =>
      canvas.toBlob((b) => (b ? done(b) : failed(new Error("no picture"))), "image/png"),
    );
  } finally {
    URL.revokeObjectURL(url);
  }
}

function download(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob);
  const a = document.createElement("a");
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}

/** Takes the figures of a panel out of the page: to the clipboard, or to a file where the browser keeps it shut. */
export function FigureTools({ panel, name }: { panel: RefObject<HTMLElement | null>; name: string }) {
  const take = async (kind: "svg" | "png"): Promise<void> => {
    const drawing = panel.current ? composed(panel.current) : undefined;
    if (!drawing) return say("There is no figure in this view; its tables have a “copy” of their own.");
    const file = `${name.replace(/[^\p{L}\p{N}]+/gu, "-").toLowerCase()}.${kind}`;
    const blob = kind === "svg" ? new Blob([drawing.text], { type: "image/svg+xml" }) : await dots(drawing);
    try {
      if (kind === "svg") await navigator.clipboard.writeText(drawing.text);
      else await navigator.clipboard.write([new ClipboardItem({ "image/png": blob })]);
      say(`The figure is copied as ${kind.toUpperCase()}.`, "done");
    } catch {
      download(blob, file);
      say(`The browser keeps its clipboard shut; the figure is saved as ${file}.`, "done");
    }
  };
  return (
    <span className="small" style={{ whiteSpace: "nowrap" }}>
      <LinkButton
        style={{ minWidth: 24, minHeight: 24 }}
        className="small"
        title="Copy the figure as SVG"
        onClick={() => void take("svg")}
      >
        SVG
      </LinkButton>{" "}
      <LinkButton
        style={{ minWidth: 24, minHeight: 24 }}
        className="small"
        title="Copy the figure as PNG"
        onClick={() => void take("png")}
      >
        PNG
      </LinkButton>
    </span>
  );
}
