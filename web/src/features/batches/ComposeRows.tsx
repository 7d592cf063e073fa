import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import { useTheme } from "@mui/material/styles";
import TextField from "@mui/material/TextField";

import type { PlannedDelivery, Recording } from "../../api/types";
import { formatChange, formatTime } from "../../pictures/figures";
import { withOwn, type Order } from "./order";

interface Props {
  recordings: readonly Recording[];
  chosen: ReadonlySet<string>;
  onChoose: (chosen: ReadonlySet<string>) => void;
  order: Order;
  onOrder: (order: Order) => void;
  planned: readonly PlannedDelivery[];
}

/** Which recordings, what each file will be called, and tags of its own. */
export function ComposeRows({ recordings, chosen, onChoose, order, onOrder, planned }: Props) {
  const { colours } = useTheme();
  const all = recordings.length > 0 && recordings.every((r) => chosen.has(r.id));
  const toggle = (id: string, on: boolean) => {
    const next = new Set(chosen);
    if (on) next.add(id);
    else next.delete(id);
    onChoose(next);
  };
  const cell = (label: string, value: string, placeholder: string, onChange: (text: string) => void) => (
    <TextField
      variant="standard" size="small" fullWidth value={value} placeholder={placeholder} onChange={(e) => onChange(e.target.value)}
      slotProps={{ htmlInput: { "aria-label": label, title: value || placeholder, style: { fontSize: 13, textOverflow: "ellipsis" } } }}
    />
  );
  return (
    <Box
      component="table" aria-label="Recordings"
      sx={{ borderCollapse: "collapse", width: "100%", "& td, & th": { textAlign: "left", py: 0.5, pr: 3, fontSize: 13 }, "& thead th": { borderBottom: `1.5px solid ${colours.ink}` }, "& tbody tr + tr": { borderTop: `1px solid ${colours.rule}` } }}
    >
      <thead>
        <tr>
          <th scope="col" style={{ width: 30 }}>
            <Checkbox
              size="small" disabled={recordings.length === 0} checked={all} indeterminate={!all && chosen.size > 0} slotProps={{ input: { "aria-label": "All recordings" } }}
              onChange={(e) => onChoose(new Set(e.target.checked ? recordings.map((r) => r.id) : []))} sx={{ p: 0.5 }}
            />
          </th>
          <th scope="col">Recording</th>
          <th scope="col">Length</th>
          <th scope="col">File</th>
          <th scope="col">Name of its own</th>
          <th scope="col">Title tag</th>
          <th scope="col">Comment tag</th>
        </tr>
      </thead>
      <tbody>
        {recordings.map((r) => {
          const plan = planned.find((p) => p.recording === r.id);
          const own = order.own[r.id] ?? {};
          const on = chosen.has(r.id);
          return (
            <tr key={r.id}>
              <td><Checkbox size="small" checked={on} onChange={(e) => toggle(r.id, e.target.checked)} slotProps={{ input: { "aria-label": r.name } }} sx={{ p: 0.5 }} /></td>
              <td>{r.name}</td>
              <td style={{ fontVariantNumeric: "tabular-nums" }}>{formatTime(r.duration_s ?? 0, 0)}</td>
              <Box component="td" sx={{ fontWeight: 600, wordBreak: "break-word" }}>
                {on && plan && plan.file_name}
                {on && plan && plan.offset_lu !== 0 && <Box component="span" sx={{ color: colours.muted, fontWeight: 400 }}> {formatChange(plan.offset_lu)} LU</Box>}
              </Box>
              <td>{on && cell(`Name of ${r.name}`, own.name ?? "", order.pattern, (name) => onOrder(withOwn(order, r.id, { name })))}</td>
              <td>{on && cell(`Title tag of ${r.name}`, own.tags?.title ?? "", plan?.tags.title ?? "", (text) => onOrder(withOwn(order, r.id, { tag: ["title", text] })))}</td>
              <td>{on && cell(`Comment tag of ${r.name}`, own.tags?.comment ?? "", plan?.tags.comment ?? "", (text) => onOrder(withOwn(order, r.id, { tag: ["comment", text] })))}</td>
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
