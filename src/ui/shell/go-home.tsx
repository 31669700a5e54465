"use client";
import { Button } from "antd";

/** The way out of a page that holds nothing. */
export const GoHome = () => (
  <Button type="primary" href="/">
    Go to Home
  </Button>
);
