import "@fontsource-variable/atkinson-hyperlegible-next";
import "@fontsource-variable/literata";
import "@mantine/core/styles.css";
import "@mantine/notifications/styles.css";
import "./global.css";
import { MantineProvider } from "@mantine/core";
import { Notifications } from "@mantine/notifications";
import { QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { queryClient } from "./queryClient";
import { router } from "./router";
import { theme } from "./theme";
import { UnitsProvider } from "./units";

/** Longest wait for the fonts. */
const FONTS_MS = 1000;

// A text in another font is as wide as another text: what is drawn before the fonts are there moves when they come.
const fonts = ['1rem "Atkinson Hyperlegible Next Variable"', '650 1rem "Literata Variable"'];
const loaded = Promise.allSettled(fonts.map((font) => document.fonts.load(font)));
await Promise.race([loaded, new Promise((late) => setTimeout(late, FONTS_MS))]);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <MantineProvider theme={theme} defaultColorScheme="auto">
        <Notifications position="bottom-right" />
        <QueryClientProvider client={queryClient}>
          <UnitsProvider>
            <RouterProvider router={router} />
          </UnitsProvider>
        </QueryClientProvider>
      </MantineProvider>
    </StrictMode>,
  );
}
