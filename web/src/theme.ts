import { createTheme, type MantineColorsTuple } from "@mantine/core";

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

export const theme = createTheme({
  primaryColor: "turf",
  primaryShade: 8,
  colors: { turf },
  white: "#fffefa",
  black: "#23281f",
  fontFamily: '"Atkinson Hyperlegible Next Variable", sans-serif',
  headings: { fontFamily: '"Literata Variable", serif', fontWeight: "650" },
  defaultRadius: "sm",
  fontSizes: { xs: "0.8125rem", sm: "0.9375rem", md: "1rem", lg: "1.125rem", xl: "1.25rem" },
  cursorType: "pointer",
  components: {
    Modal: { styles: { title: { fontFamily: '"Literata Variable", serif', fontWeight: 650, fontSize: "1.25rem" } } },
  },
});
