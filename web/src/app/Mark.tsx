import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

/** Our mark and name. */
export function Mark() {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 2 }}>
      <img src="/mark.svg" alt="" width={30} height={30} />
      <Typography variant="h3" component="span" sx={{ lineHeight: 1.02 }}>
        Zesty
        <br />
        Voice
      </Typography>
    </Box>
  );
}
