// Draws the tracks on a canvas. Takes data and a context, keeps nothing, works out no value of the animation:
// Bézier segments are drawn from control points, everything else from samples, and both come from the engine.
import { drawOverlay } from './graph/drawLanes';
import { drawHead, drawChannel } from './rows/drawRows';
import { shadeOutside, verticals, ruler, drawSound, snapLines } from './ruler/drawRuler';
import { rowAt } from './layout';
import { type Palette, type TracksModel, SOUND, bodyTop, HEAD } from './model';

export function drawTracks(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.clearRect(0, 0, m.width, m.height);
  g.fillStyle = p.back;
  g.fillRect(0, 0, m.width, m.height);
  g.save();
  g.beginPath();
  g.rect(0, bodyTop(m), m.width, (m.overlay?.top ?? m.height) - bodyTop(m));
  g.clip();
  shadeOutside(g, m, p);
  verticals(g, m, p);
  for (let i = rowAt(m.rows, m.scroll); i < m.rows.length; i++) {
    const row = m.rows[i];
    const top = HEAD + row.top - m.scroll;
    if (top > (m.overlay?.top ?? m.height)) break;
    g.strokeStyle = p.line;
    g.lineWidth = 1;
    g.beginPath();
    g.moveTo(0, Math.round(top + row.height) - 0.5);
    g.lineTo(m.width, Math.round(top + row.height) - 0.5);
    g.stroke();
    if (row.kind === 'head') drawHead(g, m, p, row, top);
    else drawChannel(g, m, p, row, top);
  }
  g.restore();
  if (m.overlay) drawOverlay(g, m, p, m.overlay);
  m.sounds.forEach((sound, i) => drawSound(g, m, p, sound, HEAD + i * SOUND));
  ruler(g, m, p);
  snapLines(g, m, p);
  if (m.lasso && m.lasso.length > 1) {
    g.strokeStyle = p.accent;
    g.fillStyle = p.accent + '22';
    g.beginPath();
    for (const at of m.lasso) g.lineTo(at.x, at.y);
    g.closePath();
    g.fill();
    g.stroke();
  }
  if (m.box) {
    g.strokeStyle = p.accent;
    g.fillStyle = p.accent + '22';
    const { x0, y0, x1, y1 } = m.box;
    g.fillRect(x0, y0, x1 - x0, y1 - y0);
    g.strokeRect(x0 + 0.5, y0 + 0.5, x1 - x0, y1 - y0);
  }
}
