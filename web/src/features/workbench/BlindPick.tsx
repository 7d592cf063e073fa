import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";

import type { Step } from "../../api/types";
import type { Loop } from "../../audio/loop";
import { CheckIcon } from "../../pictures/icons";
import { LEAST_ROUNDS, MOST_ROUNDS, randomOrder, useBlindPicks, useKeepBlindPick, type Order } from "./blindPicks";

interface Props {
  open: boolean;
  onClose: () => void;
  recordingId: string;
  loop: Loop;
  steps: Step[];
  /** In times of what the cuts leave. */
  span: { startS: number; endS: number };
}

/**
 * Two sides under labels drawn anew each round, equally loud, over the looping passage. It covers the
 * page, because the page shows which side is heard.
 */
export function BlindPick(props: Props) {
  return (
    <Dialog fullScreen open={props.open} onClose={props.onClose} aria-labelledby="blind-title">
      {props.open && <Rounds {...props} />}
    </Dialog>
  );
}

function Rounds({ onClose, recordingId, loop, steps, span }: Props) {
  const { colours } = useTheme();
  const [rounds, setRounds] = useState(10);
  const [order, setOrder] = useState<Order | null>(null);
  const [label, setLabel] = useState(0);
  const [picked, setPicked] = useState<boolean[]>([]);
  const keep = useKeepBlindPick(recordingId);
  const earlier = useBlindPicks(recordingId).data ?? [];
  const hear = (which: number, of: Order) => {
    setLabel(which);
    loop.choose(of[which] ?? "before");
  };
  const begin = () => {
    const drawn = randomOrder();
    loop.match(true);
    setPicked([]);
    keep.reset();
    setOrder(drawn);
    hear(0, drawn);
    void loop.play();
  };
  const pick = () => {
    if (!order) return;
    const all = [...picked, order[label] === "after"];
    setPicked(all);
    if (all.length < rounds) {
      const drawn = randomOrder();
      setOrder(drawn);
      hear(0, drawn);
      return;
    }
    loop.pause();
    setOrder(null);
    keep.mutate({ steps, ...span, pickedAfter: all });
  };
  useEffect(() => {
    if (!order) return;
    const down = (event: KeyboardEvent) => {
      if (event.key === "1" || event.key === "2") hear(Number(event.key) - 1, order);
    };
    window.addEventListener("keydown", down);
    return () => window.removeEventListener("keydown", down);
  });
  useEffect(() => {
    loop.pause();
    return () => loop.pause();
  }, [loop]);
  const wanted = Number.isInteger(rounds) && rounds >= LEAST_ROUNDS && rounds <= MOST_ROUNDS;
  return (
    <Box sx={{ maxWidth: 640, mx: "auto", py: 10, px: 5, width: "100%" }}>
      <Typography id="blind-title" variant="h1" component="h2">Blind pick</Typography>
      <Typography sx={{ mt: 2, mb: 6 }}>
        Before and after of the passage, equally loud, under the labels 1 and 2. Which is which is drawn anew each round. Listen to both, then pick the one
        you would deliver.
      </Typography>
      {order ? (
        <>
          <Typography variant="h2" component="h3" role="status">Round {picked.length + 1} of {rounds}</Typography>
          <Box role="group" aria-label="Sides" sx={{ display: "flex", gap: 4, my: 5 }}>
            {[0, 1].map((which) => (
              <Button
                key={which} variant="outlined" aria-pressed={label === which} onClick={() => hear(which, order)}
                sx={{ flex: 1, height: 120, fontSize: 28, fontFamily: "Fraunces Variable", ...(label === which && { borderColor: colours.ink, borderWidth: 2 }) }}
                startIcon={label === which ? <CheckIcon size={20} /> : undefined}
              >
                {which + 1}
              </Button>
            ))}
          </Box>
          <Button variant="contained" onClick={pick}>This one is better: {label + 1}</Button>
          <Typography variant="body2" color="textSecondary" sx={{ mt: 3 }}>Keys 1 and 2 switch at the same instant.</Typography>
        </>
      ) : (
        <>
          {keep.data && <Typography role="status" variant="h3" component="p" sx={{ mb: 5 }}>{keep.data.verdict}</Typography>}
          {keep.error && <Typography role="alert" sx={{ mb: 5, color: colours.fail }}>{keep.error.message}</Typography>}
          <Box sx={{ display: "flex", gap: 3, alignItems: "start" }}>
            <TextField
              size="small" type="number" label="Rounds" value={Number.isNaN(rounds) ? "" : rounds} sx={{ width: 120 }} error={!wanted}
              helperText={wanted ? "" : `${LEAST_ROUNDS} to ${MOST_ROUNDS}`} onChange={(event) => setRounds(event.target.value === "" ? NaN : Number(event.target.value))}
            />
            <Button variant="contained" disabled={!wanted} onClick={begin}>{keep.data ? "Once more" : "Begin"}</Button>
          </Box>
        </>
      )}
      {!order && earlier.length > 0 && (
        <Box sx={{ mt: 8 }}>
          <Typography variant="h3">Earlier picks on this recording</Typography>
          {earlier.map((one) => (
            <Typography key={one.id} variant="body2" sx={{ py: 1.5, borderTop: `1px solid ${colours.rule}` }}>
              {new Date(one.created_at).toLocaleString()}: {one.verdict}
            </Typography>
          ))}
        </Box>
      )}
      <Button variant="text" onClick={onClose} sx={{ mt: 6, ml: -4 }}>Back to the workbench</Button>
    </Box>
  );
}
