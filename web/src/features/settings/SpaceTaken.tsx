import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import { AskFirst } from "../../app/AskFirst";
import type { Colours } from "../../app/colours";
import type { Space, Taken } from "../../api/types";
import { formatBytes } from "../../pictures/figures";
import { useMakeRoom, useSpace } from "./api";

type Kind = Taken["kind"];

/** What each kind is, how it is counted, and its colour in the strip: before is plum, after tangerine. */
const KINDS: Record<Kind, { name: string; words: string; fill: (c: Colours) => string }> = {
  recordings: { name: "Recordings", words: "as they came", fill: (c) => c.before },
  decoded: { name: "Decoded files", words: "what M4A and other compressed recordings are read from; made again when needed", fill: (c) => c.rule },
  results: { name: "Results", words: "the latest of each recording, with what Before and After are played from", fill: (c) => c.after },
  earlier_results: { name: "Earlier results", words: "to look back; nothing was delivered from them", fill: (c) => c.usual },
  deliveries: { name: "Deliveries", words: "batches, finished files and mixes, with what they were made from", fill: (c) => c.pass },
  beds: { name: "Beds", words: "music to lay under voices", fill: (c) => c.room },
  put_away: { name: "Deleted recordings", words: "with all that was made of them", fill: (c) => c.muted },
  unfinished: { name: "Files on their way in", words: "removed when nobody goes on with them for a week", fill: (c) => c.inputBorder },
};

/** What lies on the disk by kind, and removing what only serves looking back. */
export function SpaceTaken() {
  const space = useSpace();
  const remove = useMakeRoom();
  const [asking, setAsking] = useState(false);
  const error = space.error ?? remove.error;
  if (!space.data) return error ? <Alert severity="error">{error.message}</Alert> : <Typography variant="body2">Counting.</Typography>;
  const earlier = space.data.kinds.find((k) => k.kind === "earlier_results");
  const decoded = space.data.kinds.find((k) => k.kind === "decoded");
  return (
    <>
      <SpacePicture space={space.data} />
      {error && <Alert severity="error" sx={{ mt: 3 }}>{error.message}</Alert>}
      <Box sx={{ display: "flex", alignItems: "center", gap: 3, mt: 3 }}>
        <Button variant="outlined" size="small" disabled={!earlier?.count || remove.isPending} onClick={() => setAsking(true)}>Remove earlier results</Button>
        {!earlier?.count && <Typography variant="body2" color="textSecondary">There are none.</Typography>}
        {!!decoded?.count && (
          <Button variant="outlined" size="small" disabled={remove.isPending} onClick={() => remove.mutate("decoded")}>Remove decoded files</Button>
        )}
      </Box>
      <AskFirst
        open={asking} title={`Remove ${earlier?.count ?? 0} earlier result${earlier?.count === 1 ? "" : "s"}?`} action="Remove for good" onNo={() => setAsking(false)}
        onYes={() => {
          remove.mutate("earlier-results");
          setAsking(false);
        }}
      >
        This frees {formatBytes(earlier?.size_bytes ?? 0)} and cannot be taken back. Recordings, the latest result of each, and everything that was delivered stay.
      </AskFirst>
    </>
  );
}

/** A strip of what is taken, and the same as a table. */
function SpacePicture({ space }: { space: Space }) {
  const { colours } = useTheme();
  const there = space.kinds.filter((k) => k.count > 0);
  const total = there.reduce((sum, k) => sum + k.size_bytes, 0);
  return (
    <>
      <Typography variant="body2">
        <b>{formatBytes(total)}</b> taken, {formatBytes(space.free_bytes)} free, in the data folder
      </Typography>
      <Box aria-hidden sx={{ display: "flex", gap: "2px", height: 12, my: 2, borderRadius: "6px", overflow: "hidden" }}>
        {there.map((k) => <Box key={k.kind} sx={{ flexGrow: k.size_bytes, flexBasis: 0, minWidth: 3, backgroundColor: KINDS[k.kind].fill(colours) }} />)}
      </Box>
      <Box component="table" aria-label="Space taken" sx={{ borderCollapse: "collapse", width: "100%", fontSize: 13, "& td, & th": { py: 1, px: 0, pr: 4, textAlign: "left", fontWeight: 400, verticalAlign: "top" } }}>
        <tbody>
          {there.map((k) => (
            <tr key={k.kind}>
              <Box component="td" sx={{ width: 20, pt: "9px !important" }}><Box sx={{ width: 9, height: 9, borderRadius: "2px", backgroundColor: KINDS[k.kind].fill(colours) }} /></Box>
              <th scope="row"><b>{KINDS[k.kind].name}</b> <Box component="span" sx={{ color: colours.muted }}>{KINDS[k.kind].words}</Box></th>
              <Box component="td" sx={{ textAlign: "right !important", whiteSpace: "nowrap" }}>{k.count}</Box>
              <Box component="td" sx={{ textAlign: "right !important", whiteSpace: "nowrap", pr: "0 !important" }}>{formatBytes(k.size_bytes)}</Box>
            </tr>
          ))}
        </tbody>
      </Box>
    </>
  );
}
