import type { Profile } from './profile';

const WIDTH = 960;
const LABEL = 250;
const ROW = 44;
const KEY = 44;
/** From the palette of the page's charts; stages that come again in each path keep their colour. */
const COLOURS = ['#b9b7ae', '#0f5868', '#4f8a97', '#9bbfc6', '#c98a3d', '#e3c08f', '#9c3325', '#7a6f9b', '#d9d6cc', '#5d7a4a'];

/** Profiles as stacked bars, each as long as its whole time: an SVG that is read by itself. */
export function profileChart(profiles: readonly Profile[]): string {
  const stages = [...new Set(profiles.flatMap((profile) => profile.stages.map(({ stage }) => stage)))];
  const colour = (stage: string) => COLOURS[stages.indexOf(stage) % COLOURS.length]!;
  const totals = profiles.map((profile) => profile.stages.reduce((sum, { seconds }) => sum + seconds, 0));
  const scale = (WIDTH - LABEL - 80) / Math.max(...totals);
  const bars = profiles.map(({ path, stages: parts }, at) => {
    let x = LABEL;
    const y = KEY + at * ROW;
    const boxes = parts.map(({ stage, seconds }) => {
      const width = seconds * scale;
      const box = `<rect x="${x.toFixed(1)}" y="${y + 8}" width="${width.toFixed(1)}" height="24" fill="${colour(stage)}"><title>${stage}: ${seconds.toFixed(3)} s</title></rect>`;
      x += width;
      return box;
    });
    return `<text x="${LABEL - 12}" y="${y + 25}" text-anchor="end">${path}</text>${boxes.join('')}<text x="${(x + 8).toFixed(1)}" y="${y + 25}">${totals[at]!.toFixed(2)} s</text>`;
  });
  let keyX = 12;
  const key = stages.map((stage) => {
    const item = `<rect x="${keyX}" y="14" width="14" height="14" fill="${colour(stage)}"/><text x="${keyX + 20}" y="26">${stage}</text>`;
    keyX += 40 + 8 * stage.length;
    return item;
  });
  const height = KEY + profiles.length * ROW + 12;
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${height}" font-family="system-ui, sans-serif" font-size="14" fill="#21282b"><rect width="${WIDTH}" height="${height}" fill="#fdfdfb"/>${key.join('')}${bars.join('')}</svg>\n`;
}
