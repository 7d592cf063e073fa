import { closestCenter, DndContext, type DragEndEvent, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import Checkbox from "@mui/material/Checkbox";
import { useTheme } from "@mui/material/styles";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { memo, useCallback, useMemo, useState } from "react";

import type { PlannedDelivery, Recording } from "../../api/types";
import { formatChange, formatTime } from "../../pictures/figures";
import { GripIcon } from "../../pictures/icons";
import { withChosen } from "../recordings";
import { moved, sortedIds } from "./arrange";
import { TAGS, withOwn, type Order, type Tag } from "./order";

interface Props {
  /** In the order in which their files are numbered. */
  recordings: readonly Recording[];
  onArrange: (ids: readonly string[]) => void;
  chosen: ReadonlySet<string>;
  onChoose: (change: (chosen: ReadonlySet<string>) => ReadonlySet<string>) => void;
  order: Order;
  onOrder: (change: (order: Order) => Order) => void;
  planned: readonly PlannedDelivery[];
}

const tagName = (tag: Tag) => `${tag.charAt(0).toUpperCase()}${tag.slice(1)} tag`;

/** Which recordings, what each file will be called, and tags of its own. */
export function ComposeRows({ recordings, onArrange, chosen, onChoose, order, onOrder, planned }: Props) {
  const { colours } = useTheme();
  const [columns, setColumns] = useState<readonly Tag[]>(() => TAGS.filter((tag) => tag === "title" || tag === "comment"));
  const all = recordings.length > 0 && recordings.every((r) => chosen.has(r.id));
  const plans = new Map(planned.map((plan) => [plan.recording, plan]));
  const ids = useMemo(() => recordings.map((r) => r.id), [recordings]);
  const move = useCallback((id: string, by: number) => onArrange(moved(ids, id, ids.indexOf(id) + by)), [ids, onArrange]);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const drop = ({ active, over }: DragEndEvent) => {
    if (over && over.id !== active.id) onArrange(moved(ids, String(active.id), ids.indexOf(String(over.id))));
  };
  return (
    <Box>
      <Box sx={{ display: "flex", alignItems: "center", gap: 3, mb: 2 }}>
        <TextField
          select label="Tags of their own" size="small" value={columns} sx={{ width: 280 }}
          onChange={(e) => setColumns(TAGS.filter((tag) => e.target.value.includes(tag)))}
          slotProps={{ select: { multiple: true, displayEmpty: true, renderValue: () => columns.join(", ") || "none" }, inputLabel: { shrink: true } }}
        >
          {TAGS.map((tag) => <MenuItem key={tag} value={tag}>{tag}</MenuItem>)}
        </TextField>
        <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>Files are numbered in this order; drag a row by its grip to move it.</Typography>
        <Button size="small" variant="outlined" onClick={() => onArrange(sortedIds(recordings, "name"))}>Sort by name</Button>
        <Button size="small" variant="outlined" onClick={() => onArrange(sortedIds(recordings, "came"))}>Sort by arrival</Button>
      </Box>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={ids} strategy={verticalListSortingStrategy}>
          <Box
            component="table" aria-label="Recordings"
            sx={{ borderCollapse: "collapse", width: "100%", "& td, & th": { textAlign: "left", py: 0.5, pr: 3, fontSize: 13 }, "& thead th": { borderBottom: `1.5px solid ${colours.ink}` }, "& tbody tr + tr": { borderTop: `1px solid ${colours.rule}` } }}
          >
            <thead>
              <tr>
                <th scope="col" style={{ width: 58, paddingLeft: 24 }}>
                  <Checkbox
                    size="small" disabled={recordings.length === 0} checked={all} indeterminate={!all && chosen.size > 0} slotProps={{ input: { "aria-label": "All recordings" } }}
                    onChange={(e) => onChoose(() => new Set(e.target.checked ? recordings.map((r) => r.id) : []))} sx={{ p: 0.5 }}
                  />
                </th>
                <th scope="col">Recording</th>
                <th scope="col">Length</th>
                <th scope="col">File</th>
                <th scope="col">Name of its own</th>
                {columns.map((tag) => <th key={tag} scope="col">{tagName(tag)}</th>)}
              </tr>
            </thead>
            <tbody>
              {recordings.map((r) => (
                <ComposeRow
                  key={r.id} recording={r} onMove={move} on={chosen.has(r.id)} plan={plans.get(r.id)} own={order.own[r.id] ?? NOTHING_OWN} pattern={order.pattern} columns={columns}
                  onChoose={onChoose} onOrder={onOrder}
                />
              ))}
            </tbody>
          </Box>
        </SortableContext>
      </DndContext>
    </Box>
  );
}

type Own = Order["own"][string];
const NOTHING_OWN: Own = {};

interface RowProps extends Pick<Props, "onChoose" | "onOrder"> {
  recording: Recording;
  onMove: (id: string, by: number) => void;
  on: boolean;
  plan: PlannedDelivery | undefined;
  own: Own;
  pattern: string;
  columns: readonly Tag[];
}

/** Drawn anew when something of its own changes: there may be hundreds. */
const ComposeRow = memo(function ComposeRow({ recording: r, onMove, on, plan, own, pattern, columns, onChoose, onOrder }: RowProps) {
  const { colours } = useTheme();
  const { listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id: r.id });
  return (
    <tr ref={setNodeRef} style={{ transform: CSS.Translate.toString(transform), transition, backgroundColor: isDragging ? colours.pith : undefined }}>
      <td style={{ whiteSpace: "nowrap" }}>
        <ButtonBase
          ref={setActivatorNodeRef} {...listeners} aria-label={`Move ${r.name}`} title="Drag to move; or arrow keys up and down"
          onKeyDown={(event) => {
            const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
            if (by === undefined) return;
            event.preventDefault();
            onMove(r.id, by);
          }}
          sx={{ width: 24, height: 24, color: colours.muted, cursor: "grab", borderRadius: 1 }}
        >
          <GripIcon size={14} />
        </ButtonBase>
        <Checkbox size="small" checked={on} onChange={(e) => onChoose(withChosen(r.id, e.target.checked))} slotProps={{ input: { "aria-label": r.name } }} sx={{ p: 0.5 }} />
      </td>
      <td>{r.name}</td>
      <td style={{ fontVariantNumeric: "tabular-nums" }}>{formatTime(r.duration_s ?? 0, 0)}</td>
      <Box component="td" sx={{ fontWeight: 600, wordBreak: "break-word" }}>
        {on && plan && plan.file_name}
        {on && plan && plan.offset_lu !== 0 && <Box component="span" sx={{ color: colours.muted, fontWeight: 400 }}> {formatChange(plan.offset_lu)} LU</Box>}
      </Box>
      <td>{on && <OwnText label={`Name of ${r.name}`} value={own.name ?? ""} placeholder={pattern} onChange={(name) => onOrder((order) => withOwn(order, r.id, { name }))} />}</td>
      {columns.map((tag) => (
        <td key={tag}>
          {on && (
            <OwnText
              label={`${tagName(tag)} of ${r.name}`} value={own.tags?.[tag] ?? ""} placeholder={plan?.tags[tag] ?? ""}
              onChange={(text) => onOrder((order) => withOwn(order, r.id, { tag: [tag, text] }))}
            />
          )}
        </td>
      ))}
    </tr>
  );
});

function OwnText({ label, value, placeholder, onChange }: { label: string; value: string; placeholder: string; onChange: (text: string) => void }) {
  return (
    <TextField
      variant="standard" size="small" fullWidth value={value} placeholder={placeholder} onChange={(e) => onChange(e.target.value)}
      slotProps={{ htmlInput: { "aria-label": label, title: value || placeholder, style: { fontSize: 13, textOverflow: "ellipsis" } } }}
    />
  );
}
