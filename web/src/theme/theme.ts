import { createTheme } from "@mui/material/styles";
import { useSyncExternalStore } from "react";

export const lights = ["paper", "sun", "dusk"] as const;
export type Light = (typeof lights)[number];

const tokens: Record<
  Light,
  { paper: string; card: string; ink: string; reed: string; copper: string; clay: string; hairline: string; dark: boolean }
> = {
  paper: {
    paper: "#F6F2E7",
    card: "#FFFDF6",
    ink: "#22302B",
    reed: "#3E6B4F",
    copper: "#A4561F",
    clay: "#9C3D2E",
    hairline: "#D9D0BC",
    dark: false,
  },
  sun: {
    paper: "#FFFFFF",
    card: "#FFFFFF",
    ink: "#000000",
    reed: "#000000",
    copper: "#8A3B00",
    clay: "#8A1500",
    hairline: "#000000",
    dark: false,
  },
  dusk: {
    paper: "#1C1712",
    card: "#26201A",
    ink: "#E9DCC6",
    reed: "#9DBB93",
    copper: "#E0935A",
    clay: "#E58D7B",
    hairline: "#4A4034",
    dark: true,
  },
};

const listeners = new Set<() => void>();
const stored = (): Light => {
  const v = localStorage.getItem("light");
  return lights.find((l) => l === v) ?? "paper";
};
let light = stored();
document.documentElement.dataset.light = light;

export function setLight(next: Light) {
  light = next;
  localStorage.setItem("light", next);
  document.documentElement.dataset.light = next;
  for (const l of listeners) l();
}

export const nextLight = () => setLight(lights[(lights.indexOf(light) + 1) % lights.length] ?? "paper");

export const useLight = () =>
  useSyncExternalStore(
    (l) => {
      listeners.add(l);
      return () => listeners.delete(l);
    },
    () => light,
  );

const text = '"Atkinson Hyperlegible Next Variable", sans-serif';

/** The component library's theme: flat, hairlines instead of shadows, large targets. */
export function makeTheme(of: Light) {
  const t = tokens[of];
  const line = of === "sun" ? 2 : 1;
  return createTheme({
    palette: {
      mode: t.dark ? "dark" : "light",
      background: { default: t.paper, paper: t.card },
      text: { primary: t.ink, secondary: t.ink },
      primary: { main: t.ink, contrastText: t.card },
      secondary: { main: t.copper },
      error: { main: t.clay },
      divider: t.hairline,
    },
    shape: { borderRadius: 4 },
    shadows: Array(25).fill("none") as never,
    typography: { fontFamily: text, fontSize: 16, button: { textTransform: "none", fontWeight: 650, fontSize: 17 } },
    components: {
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: {
        defaultProps: { disableElevation: true },
        styleOverrides: {
          root: {
            minHeight: 46,
            padding: "8px 20px",
            borderWidth: line,
            "&.Mui-focusVisible": { outline: `3px solid ${t.copper}`, outlineOffset: 2 },
          },
          outlined: { borderColor: t.ink, color: t.ink },
        },
      },
      MuiTextField: { defaultProps: { size: "small", fullWidth: true, slotProps: { inputLabel: { shrink: true } } } },
      MuiInputLabel: { styleOverrides: { root: { color: t.ink, fontSize: 17, "&.Mui-focused": { color: t.ink } } } },
      MuiOutlinedInput: {
        defaultProps: { notched: true },
        styleOverrides: {
          root: {
            background: t.card,
            minHeight: 46,
            fontVariantNumeric: "tabular-nums",
            "& fieldset": { borderColor: of === "paper" ? "#8C8468" : t.ink, borderWidth: line },
            "&.Mui-focused fieldset": { borderColor: t.copper, borderWidth: 2 },
          },
        },
      },
      MuiFormHelperText: {
        styleOverrides: { root: { fontSize: 14, marginLeft: 2, color: t.ink, opacity: 1, "&.Mui-error": { color: t.clay } } },
      },
      MuiCheckbox: {
        styleOverrides: {
          root: { color: t.ink, "&.Mui-checked": { color: t.reed }, "&.Mui-focusVisible": { outline: `3px solid ${t.copper}` } },
        },
      },
      MuiDialog: { styleOverrides: { paper: { border: `${line}px solid ${t.ink}`, backgroundImage: "none" } } },
      MuiSnackbarContent: { styleOverrides: { root: { background: t.ink, color: t.card, fontSize: 16 } } },
    },
  });
}
