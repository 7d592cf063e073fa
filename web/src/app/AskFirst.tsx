import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import type { ReactNode } from "react";

interface Props {
  open: boolean;
  title: string;
  action: string;
  children: ReactNode;
  onYes: () => void;
  onNo: () => void;
}

/** Asks once before something is lost. */
export function AskFirst({ open, title, action, children, onYes, onNo }: Props) {
  return (
    <Dialog open={open} onClose={onNo} aria-labelledby="ask-first">
      <DialogTitle id="ask-first" component="h2">
        {title}
      </DialogTitle>
      <DialogContent>{children}</DialogContent>
      <DialogActions sx={{ p: 4 }}>
        <Button variant="outlined" onClick={onNo}>
          Keep
        </Button>
        <Button variant="contained" onClick={onYes}>
          {action}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
