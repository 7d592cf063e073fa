/** Scales between values and pixels, and lines through points. */

export interface Scale {
  (value: number): number;
  invert: (pixel: number) => number;
}

export function linear([a, b]: readonly [number, number], [from, to]: readonly [number, number]): Scale {
  const scale = (value: number) => from + ((value - a) / (b - a)) * (to - from);
  return Object.assign(scale, { invert: (pixel: number) => a + ((pixel - from) / (to - from)) * (b - a) });
}

export function logarithmic([a, b]: readonly [number, number], range: readonly [number, number]): Scale {
  const inner = linear([Math.log(a), Math.log(b)], range);
  return Object.assign((value: number) => inner(Math.log(value)), { invert: (pixel: number) => Math.exp(inner.invert(pixel)) });
}

/** SVG path through points; gaps where a value is null. */
export function linePath(xs: readonly number[], ys: readonly (number | null | undefined)[], x: Scale, y: Scale): string {
  let d = "";
  let open = false;
  xs.forEach((value, i) => {
    const level = ys[i];
    if (level === null || level === undefined) {
      open = false;
      return;
    }
    d += `${open ? "L" : "M"}${x(value).toFixed(1)} ${y(level).toFixed(1)}`;
    open = true;
  });
  return d;
}

/** The same, closed down to a base line. */
export function areaPath(xs: readonly number[], ys: readonly number[], x: Scale, y: Scale, base: number): string {
  const [first, last] = [xs[0], xs.at(-1)];
  if (first === undefined || last === undefined) return "";
  return `${linePath(xs, ys, x, y)}L${x(last).toFixed(1)} ${base}L${x(first).toFixed(1)} ${base}Z`;
}
