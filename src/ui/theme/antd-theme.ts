import type { ThemeConfig } from "antd";
import { colours } from "./theme";

/** Ant Design in our tokens. */
export const theme: ThemeConfig = {
  cssVar: { key: "trialmoor" },
  hashed: false,

  token: {
    colorPrimary: colours.heather,
    colorInfo: colours.loch,
    colorSuccess: colours.moss,
    colorWarning: colours.bracken,
    colorError: colours.rowan,
    colorText: colours.ink,
    colorTextSecondary: colours.quiet,
    colorBorder: colours.hairline,
    colorBorderSecondary: colours.hairline,
    colorBgBase: colours.raised,
    colorBgLayout: colours.paper,
    colorLink: colours.loch,
    fontFamily: "var(--sans)",
    fontSize: 14,
    borderRadius: 6,
    controlHeight: 28,
    boxShadow: "0 1px 0 rgba(35,38,31,.05)",
    boxShadowSecondary: "0 2px 10px rgba(35,38,31,.12)",
    wireframe: false,
    // Menus and dialogs do not move: motion is kept for what explains something.
    motion: false,
  },
};
