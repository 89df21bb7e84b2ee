import { createTheme, type MantineColorsTuple, Notification } from "@mantine/core";

// Turf green, ten shades; the darkest carries the header.
const turf: MantineColorsTuple = [
  "#eff5ec",
  "#dfe9da",
  "#bfd3b6",
  "#9cbc8f",
  "#7da76d",
  "#5f9050",
  "#47783a",
  "#356030",
  "#2a4a2b",
  "#24362b",
];

// Clay red, for what went wrong.
const clay: MantineColorsTuple = [
  "#fbeeea",
  "#f3d9d1",
  "#e6b3a3",
  "#d98b73",
  "#ce6a4b",
  "#c55531",
  "#b64a27",
  "#a63f1d",
  "#9a3412",
  "#7c280c",
];

// Straw, for what is asked about.
const straw: MantineColorsTuple = [
  "#faf3e3",
  "#f2e4c4",
  "#e6cf9b",
  "#dab971",
  "#d0a64f",
  "#b98a2f",
  "#a17420",
  "#8a5a12",
  "#744a0c",
  "#5b3907",
];

export const theme = createTheme({
  primaryColor: "turf",
  primaryShade: { light: 8, dark: 6 },
  autoContrast: true,
  colors: { turf, clay, straw },
  white: "#fffefa",
  black: "#23281f",
  fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
  headings: { fontFamily: '"Literata Variable", serif', fontWeight: "650" },
  defaultRadius: "sm",
  fontSizes: { xs: "0.8125rem", sm: "0.9375rem", md: "1rem", lg: "1.125rem", xl: "1.25rem" },
  cursorType: "pointer",
  components: {
    Notification: Notification.extend({ defaultProps: { closeButtonProps: { "aria-label": "Close the message" } } }),
    // Long words of a choice wrap; they are not cut off.
    SegmentedControl: {
      styles: {
        control: { flex: "1 1 auto" },
        label: { whiteSpace: "normal", paddingInline: "0.3rem" },
      },
    },
    Modal: { styles: { title: { fontFamily: '"Literata Variable", serif', fontWeight: 650, fontSize: "1.25rem" } } },
  },
});
