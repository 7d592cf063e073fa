import Typography from "@mui/material/Typography";

/** What a picture shows, above it. */
export function Caption({ text }: { text: string }) {
  return (
    <Typography variant="caption" color="textSecondary" component="p" noWrap>
      {text}
    </Typography>
  );
}
