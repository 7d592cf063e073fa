import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import useMediaQuery from "@mui/material/useMediaQuery";
import { QueryClientProvider } from "@tanstack/react-query";
import { useMemo } from "react";
import { RouterProvider } from "react-router";

import { queryClient } from "../api/queryClient";
import { EntryGate } from "../features/account";
import { UploadsProvider } from "../features/recordings";
import { useAppearance } from "./appearance";
import { router } from "./router";
import { makeTheme } from "./theme";

/** The whole application. */
export function App() {
  const prefersDark = useMediaQuery("(prefers-color-scheme: dark)");
  const appearance = useAppearance();
  const mode = appearance === "system" ? (prefersDark ? "dark" : "light") : appearance;
  const theme = useMemo(() => makeTheme(mode), [mode]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queryClient}>
        <EntryGate>
          <UploadsProvider>
            <RouterProvider router={router} />
          </UploadsProvider>
        </EntryGate>
      </QueryClientProvider>
    </ThemeProvider>
  );
}
