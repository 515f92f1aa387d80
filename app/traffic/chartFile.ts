/** What stands above a chart in a file of its own. */
export interface ChartHead {
  readonly title: string;
  readonly legend: readonly { readonly words: string; readonly color: string }[];
  readonly ink: string;
  readonly paper: string;
}

const letters = 'Figtree, Arial, Helvetica, sans-serif';
/** The chart leaves room for a legend of its own, in which this one is written. */
const [titleAt, legendAt, headHeight, margin] = [22, 46, 32, 12] as const;
/** What of a drawn chart is only there for the mouse, or is HTML, which drawing programs do not show. */
const onlyOnScreen =
  'foreignObject, .apexcharts-xcrosshairs, .apexcharts-ycrosshairs, .apexcharts-ycrosshairs-hidden, .apexcharts-zoom-rect, .apexcharts-selection-rect';
const svgSpace = 'http://www.w3.org/2000/svg';

/** Width of a text as this browser writes it, at 12 pixels. */
const widthOf = (text: string): number => {
  const context = document.createElement('canvas').getContext('2d');
  if (!context) return text.length * 7;
  context.font = `12px ${letters}`;
  return context.measureText(text).width;
};

/**
 * A drawn chart as an SVG file that needs nothing else, with its title and legend. The file that the chart library makes itself
 * holds HTML, which only browsers show.
 *
 * @param drawn the chart's own `svg` element
 */
export const chartAsSvg = (drawn: SVGSVGElement, { title, legend, ink, paper }: ChartHead): string => {
  const [width, height] = [drawn.width.baseVal.value, drawn.height.baseVal.value];
  const make = (name: string, attributes: Readonly<Record<string, string | number>>, text = ''): Element => {
    const element = document.createElementNS(svgSpace, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, String(value));
    if (text !== '') element.textContent = text;
    return element;
  };
  const all = make('svg', {
    xmlns: svgSpace,
    ...{ width, height: height + headHeight, viewBox: `0 0 ${width} ${height + headHeight}` },
    'font-family': letters,
  });
  all.append(
    make('title', {}, title),
    make('rect', { width: '100%', height: '100%', fill: paper }),
    make('text', { x: margin, y: titleAt, 'font-size': 16, 'font-weight': 600, fill: ink }, title),
  );
  let x: number = margin;
  for (const { words, color } of legend) {
    all.append(
      make('rect', { x, y: legendAt - 10, width: 10, height: 10, rx: 2, fill: color }),
      make('text', { x: x + 15, y: legendAt, 'font-size': 12, fill: ink }, words),
    );
    x += 15 + widthOf(words) + 18;
  }
  const chart = drawn.cloneNode(true) as SVGSVGElement; // a clone is of the same kind
  for (const element of chart.querySelectorAll(onlyOnScreen)) element.remove();
  // A family that is taken from the page is none in a file.
  for (const element of chart.querySelectorAll('[font-family]')) element.removeAttribute('font-family');
  for (const element of chart.querySelectorAll<SVGElement>('[style*="font-family"]'))
    element.style.removeProperty('font-family');
  chart.setAttribute('y', String(headHeight));
  all.append(chart);
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(all)}\n`;
};

/** How many dots of a PNG stand for a pixel: it is sharp on fine screens and in print. */
const dotsPerPixel = 2;

/**
 * An SVG file as PNG.
 *
 * @throws Error where this browser draws none
 */
export const svgAsPng = async (svg: string): Promise<Uint8Array<ArrayBuffer>> => {
  const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = url;
    await image.decode();
    const canvas = document.createElement('canvas');
    canvas.width = image.width * dotsPerPixel;
    canvas.height = image.height * dotsPerPixel;
    const context = canvas.getContext('2d');
    if (!context) throw new Error('This browser draws no pictures. Save the days as SVG.');
    context.drawImage(image, 0, 0, canvas.width, canvas.height);
    const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'));
    if (!blob) throw new Error('The picture is too large for this browser. Save the days as SVG.');
    return new Uint8Array(await blob.arrayBuffer());
  } finally {
    URL.revokeObjectURL(url);
  }
};
