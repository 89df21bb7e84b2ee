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
