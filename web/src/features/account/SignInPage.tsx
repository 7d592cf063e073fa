import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";

import { Mark } from "../../app/Mark";
import { useSignIn } from "./api";

/** The way in. */
export function SignInPage() {
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const again = () => {
    setPassword("");
    field.current?.focus();
  };
  const ready = name.trim() !== "" && password !== "";
  return (
    <Box component="main" sx={{ maxWidth: 328, mx: "auto", pt: "16vh", px: 3 }}>
      <Mark />
      <Box
        component="form" aria-label="Sign in" sx={{ display: "flex", flexDirection: "column", gap: 4, mt: 7 }}
        onSubmit={(event) => {
          event.preventDefault();
          if (ready) signIn.mutate({ name, password }, { onError: again });
        }}
      >
        <Typography variant="h1">Sign in</Typography>
        <TextField label="Name" autoComplete="username" autoFocus value={name} onChange={(event) => setName(event.target.value)} slotProps={{ inputLabel: { shrink: true } }} />
        <TextField label="Password" type="password" autoComplete="current-password" inputRef={field} value={password} onChange={(event) => setPassword(event.target.value)} slotProps={{ inputLabel: { shrink: true } }} />
        {signIn.error && <Alert severity="error">{signIn.error.message}</Alert>}
        <Button type="submit" variant="contained" disabled={!ready || signIn.isPending}>Sign in</Button>
        <Typography variant="body2" color="textSecondary">Everybody sees their own recordings, recipes, room tones and batches. Whoever runs this server makes accounts and sets forgotten passwords anew.</Typography>
      </Box>
    </Box>
  );
}
