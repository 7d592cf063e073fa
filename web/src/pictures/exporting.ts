/** Pictures as files: what stands in a box, as SVG or as PNG. */

const SCALE = 2;

/** The drawing inside a box as SVG text of its own; null where there is none. */
export function svgText(box: HTMLElement, paper: string): string | null {
  const drawn = box.querySelector("svg");
  if (!drawn) return null;
  const copy = drawn.cloneNode(true) as SVGSVGElement;
  const { width, height } = sizeOf(drawn);
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", `0 0 ${width} ${height}`);
  copy.style.background = paper;
  copy.style.fontFamily = "Figtree, system-ui, sans-serif";
  return new XMLSerializer().serializeToString(copy);
}

const sizeOf = (svg: SVGSVGElement) => ({ width: Number(svg.getAttribute("width")), height: Number(svg.getAttribute("height")) });

/** Save the drawing inside a box under a name. */
export async function savePicture(box: HTMLElement, name: string, kind: "svg" | "png", paper: string): Promise<void> {
  const text = svgText(box, paper);
  const drawn = box.querySelector("svg");
  if (text === null || !drawn) return;
  const svg = new Blob([text], { type: "image/svg+xml" });
  const blob = kind === "svg" ? svg : await rasterised(svg, sizeOf(drawn), paper);
  if (blob) download(blob, `${name}.${kind}`);
}

async function rasterised(svg: Blob, { width, height }: { width: number; height: number }, paper: string): Promise<Blob | null> {
  const image = new Image();
  const address = URL.createObjectURL(svg);
  try {
    image.src = address;
    await image.decode();
    const canvas = document.createElement("canvas");
    canvas.width = SCALE * width;
    canvas.height = SCALE * height;
    const context = canvas.getContext("2d");
    if (!context) return null;
    context.fillStyle = paper;
    context.fillRect(0, 0, canvas.width, canvas.height);
    context.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
  } finally {
    URL.revokeObjectURL(address);
  }
}

function download(blob: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
