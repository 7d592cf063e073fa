import { createTheme, type Theme } from "@mui/material/styles";

import { dark, light, type Colours } from "./colours";

declare module "@mui/material/styles" {
  interface Theme {
    colours: Colours;
  }
  interface ThemeOptions {
    colours?: Colours;
  }
}

const interfaceFont = '"Figtree Variable", system-ui, sans-serif';
const titleFont = '"Fraunces Variable", Georgia, serif';
const title = { fontFamily: titleFont, fontVariationSettings: '"SOFT" 60, "WONK" 0' };

/** Theme of the application: paper and ink, no shadows, no ripples, figures of equal width. */
export function makeTheme(mode: "light" | "dark"): Theme {
  const c = mode === "light" ? light : dark;
  return createTheme({
    colours: c,
    palette: {
      mode,
      background: { default: c.paper, paper: c.card },
      text: { primary: c.ink, secondary: c.muted },
      primary: { main: c.ink, contrastText: c.onInk },
      error: { main: c.fail },
      warning: { main: c.caution },
      success: { main: c.pass },
      divider: c.rule,
    },
    shape: { borderRadius: 7 },
    spacing: 4,
    typography: {
      fontFamily: interfaceFont,
      fontSize: 14,
      h1: { ...title, fontSize: 25, fontWeight: 570, lineHeight: 1.15 },
      h2: { ...title, fontSize: 20, fontWeight: 570, lineHeight: 1.2 },
      h3: { ...title, fontSize: 16, fontWeight: 560, lineHeight: 1.25 },
      body1: { fontSize: 14, lineHeight: 1.4 },
      body2: { fontSize: 13, lineHeight: 1.4 },
      caption: { fontSize: 12, lineHeight: 1.35 },
      button: { textTransform: "none", fontWeight: 650, fontSize: 14 },
    },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          body: { fontVariantNumeric: "tabular-nums", overflowY: "scroll" },
          ":where(a)": { color: "inherit" },
          ":focus-visible": { outline: `2px solid ${c.ink}`, outlineOffset: 2 },
        },
      },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: {
        defaultProps: { disableElevation: true },
        styleOverrides: {
          root: {
            borderRadius: 18,
            minHeight: 36,
            padding: "0 18px",
            "&.Mui-focusVisible": { outline: `2px solid ${c.ink}`, outlineOffset: 2 },
          },
          outlined: { borderColor: c.rule, color: c.ink },
          sizeSmall: { minHeight: 30, padding: "0 12px", fontSize: 13 },
        },
      },
      MuiIconButton: {
        styleOverrides: {
          root: {
            color: c.ink,
            "&.Mui-focusVisible": { outline: `2px solid ${c.ink}`, outlineOffset: 2 },
          },
        },
      },
      MuiToggleButton: { styleOverrides: { root: { color: c.muted } } },
      MuiOutlinedInput: {
        styleOverrides: { notchedOutline: { borderColor: c.inputBorder } },
      },
      MuiInputLabel: { styleOverrides: { root: { color: c.muted } } },
      // Raised sheets keep the card's colour in the dark as well.
      MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: "none" } } },
      // What is merely told has no colour of its own.
      MuiAlert: {
        styleOverrides: {
          root: { "&.MuiAlert-colorInfo": { backgroundColor: c.pith, color: c.ink, "& .MuiAlert-icon": { color: c.ink } } },
        },
      },
      MuiDialogTitle: { styleOverrides: { root: { ...title, fontSize: 20, fontWeight: 570, lineHeight: 1.2 } } },
      MuiDialog: { styleOverrides: { paper: { borderRadius: 16 }, paperFullScreen: { borderRadius: 0, backgroundColor: c.paper } } },
      MuiMenu: {
        styleOverrides: { paper: { borderRadius: 12, border: `1px solid ${c.rule}` } },
      },
      // A tooltip must not lie between the pointer and what is below it.
      MuiTooltip: {
        defaultProps: { disableInteractive: true, enterDelay: 600 },
        styleOverrides: {
          tooltip: { fontSize: 12, backgroundColor: c.ink, color: c.onInk, maxWidth: 280 },
        },
      },
      MuiSwitch: {
        styleOverrides: {
          root: { width: 34, height: 24, padding: 4 },
          switchBase: {
            padding: 6,
            color: c.inputBorder,
            "&.Mui-checked": { transform: "translateX(10px)", color: c.card },
            "&.Mui-checked + .MuiSwitch-track": { backgroundColor: c.ink, opacity: 1 },
            "&.Mui-focusVisible + .MuiSwitch-track": {
              outline: `2px solid ${c.ink}`,
              outlineOffset: 2,
            },
          },
          thumb: { width: 12, height: 12, boxShadow: "none" },
          track: {
            borderRadius: 8,
            backgroundColor: c.card,
            border: `1.5px solid ${c.inputBorder}`,
            boxSizing: "border-box",
            opacity: 1,
          },
        },
      },
      MuiSlider: {
        styleOverrides: {
          root: { color: c.ink, height: 3, padding: "10px 0" },
          rail: { backgroundColor: c.rule, opacity: 1 },
          track: { display: "none" },
          thumb: {
            width: 8,
            height: 14,
            borderRadius: 3,
            "&:hover, &.Mui-focusVisible": { boxShadow: `0 0 0 3px ${c.rule}` },
          },
        },
      },
    },
  });
}
