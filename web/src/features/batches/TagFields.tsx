import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";

import { useKeepCover } from "./api";
import { TAGS, type Order } from "./order";

interface Props {
  order: Order;
  onChange: (change: Partial<Order>) => void;
  label?: string;
}

/** Tags that all files get, and their cover; folded until wanted. */
export function TagFields({ order, onChange, label = "Tags for all files" }: Props) {
  const [open, setOpen] = useState(false);
  const [coverName, setCoverName] = useState("");
  const keep = useKeepCover();
  const picker = useRef<HTMLInputElement>(null);
  const filled = TAGS.filter((tag) => order.tags[tag]).length + (order.cover ? 1 : 0);
  return (
    <Box>
      <Button size="small" variant="text" aria-expanded={open} onClick={() => setOpen(!open)} sx={{ px: 0, minWidth: 0 }}>
        {label} ({filled})
      </Button>
      {open && (
        <Box sx={{ display: "flex", gap: 3, flexWrap: "wrap", pt: 2 }}>
          {TAGS.map((tag) => (
            <TextField
              key={tag} size="small" label={tag} value={order.tags[tag] ?? ""} sx={{ width: tag === "comment" ? 300 : 160 }}
              onChange={(e) => onChange({ tags: { ...order.tags, [tag]: e.target.value } })}
            />
          ))}
          <Button variant="outlined" size="small" onClick={() => picker.current?.click()}>
            {order.cover ? `Cover: ${coverName || "as before"}` : "Choose a cover"}
          </Button>
          {order.cover && <Button size="small" variant="text" onClick={() => onChange({ cover: "" })}>No cover</Button>}
          <FormControlLabel
            control={<Switch checked={order.keepTags} onChange={(_, keepTags) => onChange({ keepTags })} />} label="Keep what the files came with"
            title="Tags and cover of a file stay where a field here is empty"
          />
          <input
            ref={picker} type="file" accept="image/png,image/jpeg" hidden data-testid="cover-picker"
            onChange={(event) => {
              const file = event.target.files?.[0];
              event.target.value = "";
              if (!file) return;
              keep.mutate(file, {
                onSuccess: (cover) => {
                  setCoverName(file.name);
                  onChange({ cover });
                },
              });
            }}
          />
          {keep.error && <Alert severity="error">{keep.error.message}</Alert>}
        </Box>
      )}
    </Box>
  );
}
