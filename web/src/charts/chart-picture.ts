export interface PictureParts {
  readonly title: string;
  /** The window in words. */
  readonly below: string;
  readonly chart: HTMLCanvasElement;
  readonly labels: readonly { readonly name: string; readonly colour: string; readonly value: string }[];
  readonly colours: { readonly paper: string; readonly ink: string; readonly quiet: string };
}

export const pictureRatio = 2;
const edge = 16;
const labelsWidth = 220;
const lineHeight = 18;
const head = 52;

/** A chart with its title, window and labels as one picture; it can stand alone in a document. */
export function chartPicture({ title, below, chart, labels, colours }: PictureParts): HTMLCanvasElement {
  const picture = document.createElement("canvas");
  const plotWidth = chart.width / pictureRatio;
  const plotHeight = Math.max(chart.height / pictureRatio, labels.length * lineHeight);
  picture.width = (plotWidth + labelsWidth + 2 * edge) * pictureRatio;
  picture.height = (plotHeight + head + edge) * pictureRatio;
  const pen = picture.getContext("2d");
  if (!pen) return picture;
  pen.scale(pictureRatio, pictureRatio);
  pen.fillStyle = colours.paper;
  pen.fillRect(0, 0, picture.width, picture.height);
  const text = (words: string, x: number, y: number, font: string, colour: string, most: number) => {
    pen.font = `${font} "Atkinson Hyperlegible Next Variable", sans-serif`;
    pen.fillStyle = colour;
    pen.fillText(words, x, y, most);
  };
  const wide = plotWidth + labelsWidth;
  text(title, edge, edge + 8, "600 14px", colours.ink, wide);
  text(below, edge, edge + 26, "12px", colours.quiet, wide);
  pen.drawImage(chart, edge, head, plotWidth, chart.height / pictureRatio);
  labels.forEach(({ name, colour, value }, i) => {
    const y = head + 14 + i * lineHeight;
    pen.fillStyle = colour;
    pen.fillRect(edge + plotWidth + 6, y - 5, 10, 3);
    text(name, edge + plotWidth + 22, y, "12px", colours.ink, 120);
    pen.textAlign = "right";
    text(value, edge + wide, y, "12px", colours.quiet, 70);
    pen.textAlign = "left";
  });
  return picture;
}
