import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import { useChangePassword, useSignOut } from "./api";

/** Who is signed in, signing out, and another password. */
export function OwnAccount({ name }: { name: string }) {
  const signOut = useSignOut();
  const [changing, setChanging] = useState(false);
  return (
    <>
      <Box sx={{ display: "flex", alignItems: "center", gap: 3 }}>
        <Typography variant="body2" sx={{ flex: 1 }}>Signed in as <b>{name}</b>.</Typography>
        <Button size="small" variant="text" aria-expanded={changing} onClick={() => setChanging(!changing)}>Change password</Button>
        <Button size="small" variant="outlined" disabled={signOut.isPending} onClick={() => signOut.mutate()}>Sign out</Button>
      </Box>
      {signOut.error && <Alert severity="error" sx={{ mt: 3 }}>{signOut.error.message}</Alert>}
      {changing && <NewPassword />}
    </>
  );
}

function NewPassword() {
  const change = useChangePassword();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  return (
    <Box
      component="form" aria-label="Change password" sx={{ mt: 4, display: "flex", gap: 3, flexWrap: "wrap", alignItems: "center" }}
      onSubmit={(event) => {
        event.preventDefault();
        change.mutate({ old, new: fresh }, {
          onSuccess: () => {
            setOld("");
            setFresh("");
          },
        });
      }}
    >
      <TextField size="small" label="Current password" type="password" autoComplete="current-password" value={old} onChange={(event) => setOld(event.target.value)} slotProps={{ inputLabel: { shrink: true } }} />
      <TextField size="small" label="New password" type="password" autoComplete="new-password" value={fresh} onChange={(event) => setFresh(event.target.value)} slotProps={{ inputLabel: { shrink: true } }} />
      <Button type="submit" size="small" variant="contained" disabled={old === "" || fresh === "" || change.isPending}>Change it</Button>
      {change.error && <Alert severity="error" sx={{ width: "100%" }}>{change.error.message}</Alert>}
      {change.isSuccess && <Typography variant="body2" role="status" sx={{ width: "100%" }}>Changed. Other browsers have to sign in again.</Typography>}
    </Box>
  );
}
