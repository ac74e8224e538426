// The ruler, its sounds, and the lines of what has snapped.
import { firstAt, niceStep, yOf } from '../layout';
import {
  areaOf,
  scaleIn,
  type Palette,
  type TracksModel,
  type SoundStrip,
  SOUND,
  SOUND_BAR,
  RULER,
  HEAD,
} from '../model';

export function shadeOutside(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.fillStyle = p.line;
  g.globalAlpha = 0.35;
  const [left, right] = [m.time.x(m.first), m.time.x(m.last)];
  if (left > 0) g.fillRect(0, HEAD, left, m.height);
  if (right < m.width) g.fillRect(right, HEAD, m.width - right, m.height);
  g.globalAlpha = 1;
}

export function verticals(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  const step = niceStep(m.time.pixelsPerFrame, 60, true);
  g.strokeStyle = p.line;
  g.globalAlpha = 0.6;
  g.beginPath();
  for (let f = Math.ceil(m.time.frame(0) / step) * step; m.time.x(f) < m.width; f += step) {
    const x = Math.round(m.time.x(f)) + 0.5;
    g.moveTo(x, HEAD);
    g.lineTo(x, m.height);
  }
  g.stroke();
  g.globalAlpha = 1;
}

export function ruler(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  g.fillStyle = p.lane;
  g.fillRect(0, 0, m.width, HEAD);
  // The range that plays is a bracket.
  const [left, right] = [m.time.x(m.playFirst), m.time.x(m.playLast)];
  g.fillStyle = p.accent;
  g.globalAlpha = 0.16;
  g.fillRect(left, 0, right - left, RULER);
  g.globalAlpha = 1;
  for (const [x, side] of [
    [left, 1],
    [right, -1],
  ]) {
    g.fillRect(Math.round(x) - (side > 0 ? 0 : 3), 0, 3, 14);
    g.fillRect(Math.round(x) - (side > 0 ? 0 : 9), 0, 9, 3);
  }
  g.font = '12px "Inter Variable", sans-serif';
  g.textBaseline = 'alphabetic';
  const step = niceStep(m.time.pixelsPerFrame, 54, true);
  const small = step % 5 === 0 ? step / 5 : step / 2;
  g.strokeStyle = p.faint;
  g.beginPath();
  for (let f = Math.ceil(m.time.frame(0) / small) * small; m.time.x(f) < m.width; f += small) {
    const x = Math.round(m.time.x(f)) + 0.5;
    g.moveTo(x, f % step === 0 ? RULER - 9 : RULER - 5);
    g.lineTo(x, RULER);
  }
  g.stroke();
  for (let f = Math.ceil(m.time.frame(-30) / step) * step; m.time.x(f) < m.width; f += step) {
    const x = m.time.x(f);
    g.fillStyle = p.text;
    g.fillText(String(f), x + 4, RULER - 13);
    if (step * m.time.pixelsPerFrame > 80) {
      g.fillStyle = p.faint;
      g.fillText(`${(f / m.rate).toFixed(2)} s`, x + 4 + g.measureText(String(f)).width + 6, RULER - 13);
    }
  }
  // Markers hang from the top, with their names.
  for (const marker of m.markers) {
    const x = m.time.x(marker.frame);
    if (x < -120 || x > m.width + 10) continue;
    const colour = p.markers[marker.color ?? 'amber'] ?? p.accent;
    g.fillStyle = colour;
    g.beginPath();
    g.moveTo(x - 5, RULER - 1);
    g.lineTo(x + 5, RULER - 1);
    g.lineTo(x + 5, RULER + 6);
    g.lineTo(x, RULER + 11);
    g.lineTo(x - 5, RULER + 6);
    g.fill();
    if (marker.name) {
      g.font = '12px "Inter Variable", sans-serif';
      g.fillText(marker.name.length > 24 ? `${marker.name.slice(0, 23)}…` : marker.name, x + 8, RULER + 11);
    }
  }
  // A dot where the checks have found something.
  for (let i = firstAt(m.findings, m.time.frame(-5), (f) => f); i < m.findings.length; i++) {
    const x = m.time.x(m.findings[i]);
    if (x > m.width + 5) break;
    g.fillStyle = p.warning;
    g.beginPath();
    g.arc(x, RULER + 2, 4, 0, 2 * Math.PI);
    g.fill();
    g.strokeStyle = p.lane;
    g.stroke();
  }
  // Under the ruler: the span of the selected keys, with a grip at each end.
  if (m.range) {
    const [a, b] = [m.time.x(m.range.first), m.time.x(m.range.last)];
    g.fillStyle = p.accent;
    g.globalAlpha = 0.35;
    g.fillRect(a, RULER + 5, b - a, 8);
    g.globalAlpha = 1;
    for (const x of [a, b]) {
      g.beginPath();
      g.roundRect(x - 5, RULER + 2, 10, 14, 4);
      g.fill();
    }
  }
  g.fillStyle = p.line;
  g.fillRect(0, HEAD - 1, m.width, 1);
}

export function drawSound(g: CanvasRenderingContext2D, m: TracksModel, p: Palette, sound: SoundStrip, top: number) {
  g.fillStyle = p.lane;
  g.fillRect(0, top, m.width, SOUND);
  const [left, right] = [m.time.x(sound.start), m.time.x(sound.start + sound.seconds * m.rate)];
  const [from, to] = [Math.max(0, Math.floor(left)), Math.min(m.width, Math.ceil(right))];
  if (to > from) {
    g.globalAlpha = sound.muted ? 0.35 : 1;
    const colour = p.markers.moss;
    g.fillStyle = `color-mix(in srgb, ${colour} 22%, ${p.back})`;
    g.fillRect(from, top + 1, to - from, SOUND - 2);
    g.fillStyle = `color-mix(in srgb, ${colour} 45%, ${p.back})`;
    g.fillRect(from, top + 1, to - from, SOUND_BAR - 1);
    g.fillStyle = colour;
    const middle = top + SOUND_BAR + (SOUND - SOUND_BAR) / 2;
    const unit = ((SOUND - SOUND_BAR) / 2 - 2) / (sound.most || 1);
    for (let x = from; sound.between && x < to; x++) {
      const at = (px: number) => (m.time.frame(px) - sound.start) / m.rate;
      const range = sound.between(at(x), at(x + 1));
      if (!range) continue;
      g.fillRect(x, middle - range[1] * unit, 1, Math.max(1, (range[1] - range[0]) * unit));
    }
    g.save();
    g.beginPath();
    g.rect(from, top, to - from, SOUND_BAR);
    g.clip();
    g.fillStyle = p.text;
    g.font = '12px "Inter Variable", sans-serif';
    const state = sound.muted ? ' (muted)' : sound.between ? '' : ' (coming…)';
    g.fillText(sound.name + state, from + 6, top + SOUND_BAR - 3);
    g.restore();
    g.globalAlpha = 1;
  }
  g.fillStyle = p.line;
  g.fillRect(0, top + SOUND - 1, m.width, 1);
}

/** Lines to what a hand has snapped to, with a word for each. */
export function snapLines(g: CanvasRenderingContext2D, m: TracksModel, p: Palette) {
  const { frame, value } = m.toward ?? {};
  g.strokeStyle = g.fillStyle = p.warning;
  g.font = '12px "Inter Variable", sans-serif';
  g.setLineDash([4, 3]);
  if (frame) {
    const x = Math.round(m.time.x(frame.at)) + 0.5;
    g.beginPath();
    g.moveTo(x, HEAD);
    g.lineTo(x, m.height);
    g.stroke();
    g.fillText(frame.words, x + 5, m.height - 6);
  }
  const curve = value && m.curve(value.lane.address);
  if (value && curve) {
    const area = areaOf(m, value.lane);
    const y = Math.round(yOf(value.at, scaleIn(m, value.lane, curve), area.top, area.height)) + 0.5;
    g.beginPath();
    g.moveTo(0, y);
    g.lineTo(m.width, y);
    g.stroke();
    g.fillText(value.words, 6, y - 4);
  }
  g.setLineDash([]);
}
