import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { useTheme } from "@mui/material/styles";
import Typography from "@mui/material/Typography";
import { useRef, type ReactNode } from "react";

import { savePicture } from "../../pictures/exporting";
import { useWidth } from "../../pictures/useWidth";

interface Props {
  title: string;
  /** How it is drawn. */
  note?: string;
  /** Name of the file it is saved as. */
  name: string;
  tools?: ReactNode;
  children: (width: number) => ReactNode;
}

/** A picture under its title, to save as SVG or PNG. */
export function PictureCard({ title, note, name, tools, children }: Props) {
  const { colours } = useTheme();
  const [width, measure] = useWidth(520);
  const box = useRef<HTMLDivElement>(null);
  const save = (kind: "svg" | "png") => {
    if (box.current) void savePicture(box.current, name, kind, colours.paper);
  };
  return (
    <Box component="section" aria-label={title} sx={{ minWidth: 0 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2 }}>
        <Typography variant="h3" component="h2">{title}</Typography>
        {note && <Typography variant="caption" color="textSecondary" sx={{ flex: 1, minWidth: 0 }}>{note}</Typography>}
        {!note && <Box sx={{ flex: 1 }} />}
        {tools}
        {(["svg", "png"] as const).map((kind) => (
          <Button key={kind} size="small" variant="text" onClick={() => save(kind)} aria-label={`Save ${title} as ${kind.toUpperCase()}`} sx={{ minWidth: 0, px: 1.5, py: 0, fontWeight: 500 }}>
            {kind.toUpperCase()}
          </Button>
        ))}
      </Box>
      <Box ref={measure}>
        <Box ref={box}>{children(width)}</Box>
      </Box>
    </Box>
  );
}
