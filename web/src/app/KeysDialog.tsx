import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";

interface Props {
  keys: readonly [string, string][];
  /** What cannot be shown as a key. */
  more?: string;
}

/** The keys of a page, shown by `?` and by its button. */
export function KeysHelp({ keys, more }: Props) {
  const { colours } = useTheme();
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLElement && event.target.closest("input, textarea");
      if (event.key === "?" && !typing) setOpen((shown) => !shown);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <Button
        size="small" variant="text" aria-label="Keys" title="The keys of this page (?)" onClick={() => setOpen(true)}
        sx={{ minWidth: 26, px: 1, color: colours.muted }}
      >
        ?
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} aria-labelledby="keys-title">
        <DialogTitle id="keys-title">Keys</DialogTitle>
        <DialogContent tabIndex={0}>
          <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "auto 1fr", columnGap: 5, rowGap: 2, m: 0 }}>
            {keys.map(([key, does]) => (
              <Box key={key} sx={{ display: "contents" }}>
                <Typography component="dt" variant="body2" sx={{ fontWeight: 650 }}>{key}</Typography>
                <Typography component="dd" variant="body2" sx={{ m: 0 }}>{does}</Typography>
              </Box>
            ))}
          </Box>
          {more && <Typography variant="body2" color="textSecondary" sx={{ mt: 4, maxWidth: 420 }}>{more}</Typography>}
        </DialogContent>
        <DialogActions>
          <Button variant="outlined" onClick={() => setOpen(false)}>Close</Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
