import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { NavLink, Outlet, useLocation } from "react-router";

import { UploadsUnderWay } from "../features/recordings";
import { Mark } from "./Mark";

/** Narrower than this (a zoomed-in window, a phone), places stand above the page. */
const NARROW = "@media (max-width: 900px)";

const places = [
  { to: "/recordings", name: "Recordings" },
  { to: "/recipes", name: "Recipes" },
  { to: "/room-tones", name: "Room tones" },
  { to: "/batches", name: "Batches" },
  { to: "/targets", name: "Targets" },
  { to: "/settings", name: "Settings" },
];

/** Navigation beside the page. */
export function Shell() {
  const { colours } = useTheme();
  const { pathname } = useLocation();
  const opened = /^\/recordings\/([^/]+)/.exec(pathname);
  const inner = opened ? [{ to: `/recordings/${opened[1]}`, name: "Workbench" }, { to: `/recordings/${opened[1]}/compare`, name: "Compare" }, { to: `/recordings/${opened[1]}/tasting`, name: "Tasting" }, { to: `/recordings/${opened[1]}/bed`, name: "Over a bed" }] : [];
  return (
    <Box sx={{ display: "flex", minHeight: "100vh", [NARROW]: { display: "block" } }}>
      <Link
        href="#content" onClick={(event) => { event.preventDefault(); document.getElementById("content")?.focus(); }}
        sx={{ position: "absolute", left: -9999, "&:focus": { left: 16, top: 12, zIndex: 3, p: 2, backgroundColor: colours.card, borderRadius: "7px" } }}
      >
        Skip to the page
      </Link>
      <Box
        component="nav"
        aria-label="Places"
        sx={{
          width: 128, flexShrink: 0, position: "sticky", top: 0, height: "100vh", pt: 5,
          [NARROW]: { width: "auto", height: "auto", position: "static", display: "flex", alignItems: "center", pt: 2 },
        }}
      >
        <Box sx={{ pl: 6 }}><Mark /></Box>
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mt: 6, [NARROW]: { display: "flex", flexWrap: "wrap", mt: 0 } }}>
          {places.map((place) => (
            <Box component="li" key={place.to}>
              <Place {...place} />
              {place.to === "/recordings" && inner.map((page) => (
                <Link
                  key={page.to} component={NavLink} to={page.to} end underline="none" variant="body2"
                  sx={{ display: "block", pl: 9.5, py: 1, color: colours.muted, "&.active": { fontWeight: 700, color: colours.ink }, [NARROW]: { display: "inline-block", pl: 4 } }}
                >
                  {page.name}
                </Link>
              ))}
            </Box>
          ))}
        </Box>
        <UploadsUnderWay />
      </Box>
      <Box component="main" id="content" tabIndex={-1} sx={{ flex: 1, outline: "none", minWidth: 0, pl: 6, pr: 6, pt: 3, pb: 4, [NARROW]: { overflowX: "auto" } }}>
        <Outlet />
      </Box>
    </Box>
  );
}

/** A word; an ink half-disc at the page's edge marks where one is. */
function Place({ to, name }: { to: string; name: string }) {
  const { colours } = useTheme();
  return (
    <NavLink to={to} style={{ textDecoration: "none" }}>
      {({ isActive }) => (
        <Box
          sx={{
            position: "relative",
            pl: 6,
            py: 1.5,
            color: isActive ? colours.ink : colours.muted,
            fontWeight: isActive ? 700 : 400,
            "&:hover": { color: colours.ink },
            "&::before": isActive
              ? {
                  content: '""',
                  position: "absolute",
                  left: 0,
                  top: "50%",
                  mt: "-10px",
                  width: 10,
                  height: 20,
                  borderRadius: "0 10px 10px 0",
                  backgroundColor: colours.ink,
                  [NARROW]: { display: "none" },
                }
              : {},
          }}
        >
          {name}
        </Box>
      )}
    </NavLink>
  );
}

/** Shown for addresses that lead nowhere, and when a page breaks. */
export function NothingHere() {
  return (
    <Box sx={{ p: 8 }}>
      <Typography variant="h1">This page cannot be shown</Typography>
      <Typography sx={{ mt: 2 }}>
        It may have been deleted. Your recordings are safe.{" "}
        <Link href="/recordings">Go to the recordings</Link>
      </Typography>
    </Box>
  );
}
