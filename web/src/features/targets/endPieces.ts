import type { EndPiece } from "../../api/types";
import { parseQuantity } from "../../pictures/quantity";

/** An intro or outro while it is typed. */
export interface TypedPiece {
  bed: string;
  overlap_s: string;
  level_lu: string;
}

export const newPiece: TypedPiece = { bed: "", overlap_s: "2", level_lu: "-3" };

export const typedPiece = (piece: EndPiece | null | undefined): TypedPiece | null =>
  piece ? { bed: piece.bed, overlap_s: String(piece.overlap_s), level_lu: String(piece.level_lu) } : null;

/** As the server wants it; a text that is no number goes as it is, to be refused. */
export function pieceOf(typed: TypedPiece | null): EndPiece | null {
  if (!typed) return null;
  const number = (text: string, unit: string) => parseQuantity(text, unit) ?? (text as unknown as number);
  return { bed: typed.bed, overlap_s: number(typed.overlap_s, "s"), level_lu: number(typed.level_lu, "LU") };
}
