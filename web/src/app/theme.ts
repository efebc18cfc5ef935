/** Ant Design's tokens from the yard's palette, light and dark. The palette itself stands in theme.css. */
import { theme, type ThemeConfig } from "antd";

export type Mode = "light" | "dark";

const PALETTE = {
  light: {
    paper: "#f3f0e7",
    card: "#fbf9f3",
    ink: "#22313a",
    muted: "#5a666c",
    line: "#cfc9b8",
    petrol: "#2c6a73",
    rust: "#a8481a",
    oxide: "#a3211c",
    moss: "#3b6a4a",
    ochre: "#8a5a00",
  },
  dark: {
    paper: "#141b1f",
    card: "#1c252a",
    ink: "#e9e4d6",
    muted: "#a3adb0",
    line: "#3b484f",
    petrol: "#7cc0ca",
    rust: "#f09a64",
    oxide: "#ff8a80",
    moss: "#8fca9f",
    ochre: "#e5b85c",
  },
} as const;

export function themeFor(mode: Mode): ThemeConfig {
  const p = PALETTE[mode];
  const onPrimary = mode === "light" ? "#ffffff" : "#10181c";
  return {
    // The components' styles ship as a file: made anew by every page in the browser they were a third of its script.
    zeroRuntime: true,
    hashed: false,
    algorithm: mode === "light" ? theme.defaultAlgorithm : theme.darkAlgorithm,
    token: {
      fontFamily: '"Source Sans 3 Variable", sans-serif',
      fontSize: 14,
      borderRadius: 0,
      borderRadiusLG: 0,
      borderRadiusSM: 0,
      borderRadiusXS: 0,
      colorPrimary: p.petrol,
      colorLink: p.petrol,
      colorInfo: p.petrol,
      colorError: p.oxide,
      colorSuccess: p.moss,
      colorWarning: p.ochre,
      colorText: p.ink,
      colorTextSecondary: p.muted,
      colorTextTertiary: p.muted,
      colorTextDescription: p.muted,
      colorTextPlaceholder: p.muted,
      colorBgBase: p.card,
      colorBgContainer: p.card,
      colorBgElevated: p.card,
      colorBgLayout: p.paper,
      colorBorder: p.line,
      colorBorderSecondary: p.line,
      boxShadow: "none",
      boxShadowSecondary: "none",
      motion: false,
    },
    components: {
      Button: { primaryColor: onPrimary, defaultShadow: "none", primaryShadow: "none", dangerShadow: "none" },
      Steps: { colorTextLightSolid: onPrimary },
      Table: { cellPaddingBlockSM: 3, cellPaddingInlineSM: 6 },
    },
  };
}
