import LinearProgress from "@mui/material/LinearProgress";
import Link from "@mui/material/Link";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { Link as PageLink, useLocation } from "react-router";

import { moving, shareIn } from "./uploads";
import { useUploads } from "./UploadsProvider";

/** On pages other than that of recordings: what is on its way in, and a way there. */
export function UploadsUnderWay() {
  const { colours } = useTheme();
  const { uploads, over } = useUploads();
  const { pathname } = useLocation();
  const coming = moving(uploads);
  const failed = uploads.length - coming.length;
  if (pathname === "/recordings" || (uploads.length === 0 && !over)) return null;
  const count = (n: number) => `${n} file${n === 1 ? "" : "s"}`;
  return (
    <Link
      component={PageLink} to="/recordings" underline="hover"
      sx={{ display: "block", px: 6, pt: 5, pr: 2, color: colours.ink }}
    >
      {over && <Typography variant="body2">Let go to bring files in</Typography>}
      {coming[0] && (
        <>
          <Typography variant="body2">{count(coming.length)} coming in</Typography>
          <LinearProgress
            variant="determinate" value={100 * shareIn(coming[0])} aria-label={`Bringing in ${coming[0].name}`}
            sx={{ height: 6, borderRadius: "15px", mt: 1 }}
          />
        </>
      )}
      {failed > 0 && (
        <Typography variant="body2" sx={{ color: colours.fail, mt: 1 }}>{count(failed)} could not come in</Typography>
      )}
    </Link>
  );
}
