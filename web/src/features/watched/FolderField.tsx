import Autocomplete from "@mui/material/Autocomplete";
import TextField from "@mui/material/TextField";
import { useState } from "react";

import { useFoldersUnder } from "./api";

interface Props {
  label: string;
  value: string;
  placeholder: string;
  onChange: (path: string) => void;
}

/** A path on the server's machine: typed, or chosen folder by folder. */
export function FolderField({ label, value, placeholder, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const folders = useFoldersUnder(value, open).data?.folders ?? [];
  return (
    <Autocomplete
      freeSolo disableClearable openOnFocus open={open && folders.length > 0} onOpen={() => setOpen(true)} onClose={() => setOpen(false)}
      options={folders} filterOptions={(all) => all} inputValue={value} onInputChange={(_, path) => onChange(path)} sx={{ flex: 1 }}
      renderInput={(params) => <TextField {...params} size="small" label={label} placeholder={placeholder} slotProps={{ ...params.slotProps, inputLabel: { shrink: true } }} />}
    />
  );
}
