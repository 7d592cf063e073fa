import Button from "@mui/material/Button";

/** Moves the playhead to a place of a list. */
export function PlaceButton({ timeS, of, onGoTo }: { timeS: number; of: string; onGoTo: (timeS: number) => void }) {
  return (
    <Button size="small" variant="text" aria-label={`Go to ${of}`} onClick={() => onGoTo(timeS)} sx={{ minWidth: 0, px: 2, minHeight: 24 }}>
      Go to
    </Button>
  );
}
