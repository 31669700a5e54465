import type { ThemeConfig } from "antd";
import { colours } from "./theme";

/** Ant Design in our tokens. */
export const theme: ThemeConfig = {
  cssVar: { key: "trialmoor" },
  hashed: false,
  // Its rules come as a file, our tokens as variables: nothing is written into the page as parts are first drawn.
  zeroRuntime: true,
  token: {
    colorPrimary: colours.accent,
    colorInfo: colours.info,
    colorSuccess: colours.success,
    colorWarning: colours.warning,
    colorError: colours.danger,
    colorText: colours.ink,
    colorTextSecondary: colours.quiet,
    colorBorder: colours.hairline,
    colorBorderSecondary: colours.hairline,
    colorBgBase: colours.raised,
    colorBgLayout: colours.paper,
    colorLink: colours.info,
    colorLinkHover: "#245469",
    colorLinkActive: "#245469",
    colorTextPlaceholder: colours.quiet,
    colorTextDescription: colours.quiet,
    fontFamily: "var(--sans)",
    fontSize: 14,
    borderRadius: 6,
    controlHeight: 28,
    controlHeightSM: 24,
    boxShadow: "0 1px 0 rgba(35,38,31,.05)",
    boxShadowSecondary: "0 2px 10px rgba(35,38,31,.12)",
    wireframe: false,
    // Menus and dialogs do not move: motion is kept for what explains something.
    motion: false,
  },
  components: {
    Button: {
      defaultShadow: "none",
      primaryShadow: "none",
      dangerShadow: "none",
      paddingInline: 12,
      paddingInlineSM: 8,
      contentFontSizeSM: 13,
      defaultHoverBorderColor: colours.accent,
      defaultHoverColor: colours.ink,
      defaultActiveColor: colours.ink,
      primaryColor: "#FFFFFF",
      colorPrimaryHover: "#5D4068",
    },
    Segmented: {
      trackBg: "#EFEADF",
      itemSelectedBg: colours.accent,
      itemSelectedColor: "#FFFFFF",
      itemColor: colours.ink,
    },
    Tabs: { horizontalItemPaddingSM: "3px 0 4px", horizontalItemGutter: 0, titleFontSizeSM: 13, horizontalMargin: "0" },
    Select: { optionPadding: "4px 10px", optionSelectedBg: "#EFE8F1", optionActiveBg: "#F3EFE5" },
    Collapse: { headerPadding: "2px 0", contentPadding: "2px 0 6px" },
  },
};
