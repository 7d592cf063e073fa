import type { Marker } from "../../../audio/cutTimes";

/** Adds a marker in order; one at the same place takes the new name. */
export function withMarker(markers: readonly Marker[], atS: number, name = ""): Marker[] {
  const at_s = Math.round(atS * 1000) / 1000;
  const others = markers.filter((marker) => marker.at_s !== at_s);
  return [...others, { at_s, name: name.trim() || `Marker ${others.length + 1}` }].sort((a, b) => a.at_s - b.at_s);
}
