import "@mantine/core/styles.css";
import "@fontsource-variable/atkinson-hyperlegible-next/index.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/index.css";
import "./theme.css";

import { MantineProvider } from "@mantine/core";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";

import { Problem } from "./api/client";
import { router } from "./router";
import { theme, variables } from "./theme";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 2000,
      // what the server refuses, it refuses again; what it did not hear, it may hear
      retry: (count, error) => error instanceof Problem && error.unreachable && count < 3,
    },
  },
});

const root = document.getElementById("root");
if (!root) throw new Error("the page has no element 'root'");
createRoot(root).render(
  <StrictMode>
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <QueryClientProvider client={queries}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
