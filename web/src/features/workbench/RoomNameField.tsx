import TextField from "@mui/material/TextField";

import { useRoomTones } from "../rooms";

interface Props {
  value: string;
  onChange: (name: string) => void;
}

/** Name of a room or microphone; those known are offered, so that samples of one room stay together. */
export function RoomNameField({ value, onChange }: Props) {
  const tones = useRoomTones();
  const names = [...new Set(tones.data?.map((tone) => tone.name))];
  return (
    <>
      <TextField
        size="small" label="Room or microphone" value={value} sx={{ width: 190 }}
        onChange={(event) => onChange(event.target.value)} slotProps={{ htmlInput: { list: "room-names" } }}
      />
      <datalist id="room-names">
        {names.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
