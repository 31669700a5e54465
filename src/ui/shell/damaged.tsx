"use client";
import { Button } from "antd";

/** In place of a study that cannot be read. */
export const Damaged = ({ id, why }: { id: string; why: string }) => (
  <main style={{ padding: "80px 64px", maxWidth: 560 }}>
    <h1>This study cannot be opened</h1>
    <p style={{ margin: "12px 0 20px" }}>{why}</p>
    <div className="row">
      <Button type="primary" href={`/api/studies/${id}/export?format=raw`}>
        Save raw file
      </Button>
      <Button href="/">Go to Home</Button>
    </div>
  </main>
);
