import { createTheme } from "@mui/material/styles";
import "./palette.css";

const faint = (percent: number) => `color-mix(in oklch, var(--ink) ${percent}%, transparent)`;
const text = '"Atkinson Hyperlegible Next Variable", sans-serif';
const focused = { outline: "3px solid var(--copper)", outlineOffset: 2 };

/** The component library's theme: flat, hairlines instead of shadows, large targets. Its colours are palette.css's in every light. */
export const theme = createTheme({
  cssVariables: { cssVarPrefix: "", nativeColor: true },
  palette: {
    background: { default: "var(--paper)", paper: "var(--card)" },
    text: { primary: "var(--ink)", secondary: "var(--ink)", disabled: faint(50) },
    primary: { main: "var(--ink)", contrastText: "var(--card)" },
    secondary: { main: "var(--copperText)" },
    error: { main: "var(--clay)" },
    divider: "var(--hairline)",
    action: { active: faint(54), hover: faint(4), selected: faint(8), disabled: faint(40), disabledBackground: faint(12) },
  },
  shape: { borderRadius: 4 },
  shadows: Array(25).fill("none") as never,
  // Nothing glides: what is pressed is there.
  transitions: { create: () => "none" },
  typography: { fontFamily: text, fontSize: 16, button: { textTransform: "none", fontWeight: 650, fontSize: 17 } },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true },
      styleOverrides: {
        root: { minHeight: 46, padding: "8px 20px", borderWidth: "var(--line)", "&.Mui-focusVisible": focused },
        outlined: { borderColor: "var(--ink)", color: "var(--ink)" },
      },
    },
    MuiTextField: { defaultProps: { size: "small", fullWidth: true, slotProps: { inputLabel: { shrink: true } } } },
    MuiInputLabel: { styleOverrides: { root: { color: "var(--ink)", fontSize: 17, "&.Mui-focused": { color: "var(--ink)" } } } },
    MuiOutlinedInput: {
      defaultProps: { notched: true },
      styleOverrides: {
        root: {
          background: "var(--card)",
          minHeight: 46,
          fontVariantNumeric: "tabular-nums",
          // The gap in the frame is as wide as its label, whatever the size of what is typed.
          "& legend": { fontSize: 12.75 },
          "& fieldset": { borderColor: "var(--edge)", borderWidth: "var(--line)" },
          "&.Mui-focused fieldset": { borderColor: "var(--copper)", borderWidth: 2 },
        },
      },
    },
    MuiFormHelperText: {
      styleOverrides: { root: { fontSize: 14, marginLeft: 2, color: "var(--ink)", opacity: 1, "&.Mui-error": { color: "var(--clay)" } } },
    },
    MuiCheckbox: {
      styleOverrides: {
        root: { color: "var(--ink)", "&.Mui-checked": { color: "var(--reed)" }, "&.Mui-focusVisible": focused },
      },
    },
    MuiDialog: { styleOverrides: { paper: { border: "var(--line) solid var(--ink)", backgroundImage: "none" } } },
    MuiSnackbarContent: { styleOverrides: { root: { background: "var(--ink)", color: "var(--card)", fontSize: 16 } } },
  },
});
