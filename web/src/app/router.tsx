import { createBrowserRouter, Navigate } from "react-router";

import { BatchesPage, BatchPage } from "../features/batches";
import { BedPage } from "../features/beds";
import { ComparePage, TastingPage } from "../features/compare";
import { RecipesPage } from "../features/recipes";
import { RecordingsPage } from "../features/recordings";
import { RoomTonesPage } from "../features/rooms";
import { SettingsPage } from "../features/settings";
import { TargetsPage } from "../features/targets";
import { WorkbenchPage } from "../features/workbench";
import { NothingHere, Shell } from "./Shell";

export const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <NothingHere />,
    children: [
      { path: "/", element: <Navigate to="/recordings" replace /> },
      { path: "/recordings", element: <RecordingsPage /> },
      { path: "/recordings/:recordingId", element: <WorkbenchPage /> },
      { path: "/recordings/:recordingId/compare", element: <ComparePage /> },
      { path: "/recordings/:recordingId/bed", element: <BedPage /> },
      { path: "/recordings/:recordingId/tasting", element: <TastingPage /> },
      { path: "/recipes", element: <RecipesPage /> },
      { path: "/room-tones", element: <RoomTonesPage /> },
      { path: "/targets", element: <TargetsPage /> },
      { path: "/batches", element: <BatchesPage /> },
      { path: "/batches/:batchId", element: <BatchPage /> },
      { path: "/settings", element: <SettingsPage /> },
      { path: "*", element: <NothingHere /> },
    ],
  },
]);
