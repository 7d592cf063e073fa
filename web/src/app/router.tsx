import { createBrowserRouter, Navigate } from "react-router";

import { NothingHere, Shell } from "./Shell";

/** A page with code of its own, fetched when somebody goes there. */
const page = (load: () => Promise<React.ComponentType>) => ({ lazy: async () => ({ Component: await load() }) });

export const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <NothingHere />,
    hydrateFallbackElement: <></>,
    children: [
      { path: "/", element: <Navigate to="/recordings" replace /> },
      { path: "/recordings", ...page(async () => (await import("../features/recordings")).RecordingsPage) },
      { path: "/recordings/:recordingId", ...page(async () => (await import("../features/workbench")).WorkbenchPage) },
      { path: "/recordings/:recordingId/compare", ...page(async () => (await import("../features/compare")).ComparePage) },
      { path: "/recordings/:recordingId/bed", ...page(async () => (await import("../features/beds")).BedPage) },
      { path: "/recordings/:recordingId/tasting", ...page(async () => (await import("../features/compare")).TastingPage) },
      { path: "/recipes", ...page(async () => (await import("../features/recipes")).RecipesPage) },
      { path: "/room-tones", ...page(async () => (await import("../features/rooms")).RoomTonesPage) },
      { path: "/targets", ...page(async () => (await import("../features/targets")).TargetsPage) },
      { path: "/batches", ...page(async () => (await import("../features/batches")).BatchesPage) },
      { path: "/batches/:batchId", ...page(async () => (await import("../features/batches")).BatchPage) },
      { path: "/settings", ...page(async () => (await import("../features/settings")).SettingsPage) },
      { path: "*", element: <NothingHere /> },
    ],
  },
]);
