import { download } from '../controls/files';

/** The chart as a file of its own: theme variables become colours, what only serves the pointer is left out. */
export function svgText(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  copy.querySelectorAll('[data-screen-only]').forEach((node) => node.remove());
  const { width, height } = svg.getBoundingClientRect();
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
  copy.setAttribute('width', String(Math.round(width)));
  copy.setAttribute('height', String(Math.round(height)));
  copy.setAttribute('viewBox', `0 0 ${Math.round(width)} ${Math.round(height)}`);
  copy.setAttribute('font-family', "Inter, 'Helvetica Neue', Arial, sans-serif");
  const style = getComputedStyle(document.documentElement);
  const background = document.createElementNS('http://www.w3.org/2000/svg', 'rect');
  background.setAttribute('width', '100%');
  background.setAttribute('height', '100%');
  background.setAttribute('fill', 'var(--raised)');
  copy.prepend(background);
  return new XMLSerializer()
    .serializeToString(copy)
    .replace(/var\(--(\w+)\)/g, (_match, name: string) => style.getPropertyValue(`--${name}`).trim());
}

export function saveSvg(svg: SVGSVGElement, name: string): void {
  download(`${name}.svg`, svgText(svg), 'image/svg+xml');
}

/** A drawing as a bitmap of so many pixels. @param svg its text @param ground what it lies on; absent: nothing */
export async function pngOf(svg: string, width: number, height: number, ground?: string): Promise<Blob> {
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = url;
    await image.decode();
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [Math.round(width), Math.round(height)];
    const pen = canvas.getContext('2d')!;
    if (ground !== undefined) {
      pen.fillStyle = ground;
      pen.fillRect(0, 0, canvas.width, canvas.height);
    }
    pen.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
    if (!blob) throw new Error('the picture is too large');
    return blob;
  } finally {
    URL.revokeObjectURL(url);
  }
}

/** The chart as a bitmap of twice its size on the screen. */
export async function savePng(svg: SVGSVGElement, name: string): Promise<void> {
  const { width, height } = svg.getBoundingClientRect();
  download(`${name}.png`, await pngOf(svgText(svg), 2 * width, 2 * height));
}
