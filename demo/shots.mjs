// Makes the demo shots beside lantern-quay.shot.json, from parts of the quay: node demo/shots.mjs
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';

const folder = new URL('.', import.meta.url);
const quay = JSON.parse(readFileSync(new URL('lantern-quay.shot.json', folder)));
const value = (numbers) => Object.fromEntries(Object.entries(numbers).map(([path, v]) => [path, typeof v === 'number' ? { value: v } : v]));
const curve = (before, keys, around = {}) => ({ value: before, curve: { ...around, keys } });
const place = (x, y, z) => ({ 'transform.translate.x': x, 'transform.translate.y': y, 'transform.translate.z': z });
const mesh = (id, name, parent, shape, material, channels = {}) => ({ kind: 'mesh', id, name, parent, shape, material, channels: value(channels) });
const material = (id) => quay.materials.find((m) => m.id === id);
const write = (file, shot) => writeFileSync(new URL(file, folder), JSON.stringify({ version: 1, rate: quay.rate, size: quay.size, ...shot }, null, 2) + '\n');
const below = (id) => {
  const ids = new Set([id]);
  for (const n of quay.nodes) if (ids.has(n.parent)) ids.add(n.id);
  return quay.nodes.filter((n) => ids.has(n.id));
};

// A row of lamps along the quay: one lamp, repeated. Each lights eight frames after the one before it, round and round.
const lit = (on) => curve(0, [{ frame: 0, value: 0, segment: 'hold' }, { frame: 12, value: on, segment: 'hold' }, { frame: 96, value: 0, segment: 'hold' }, { frame: 144, value: 0 }], { before: { kind: 'loop' }, after: { kind: 'loop' } });
const lamps = [
  { kind: 'camera', id: 'cam', name: 'Quay camera', channels: value({ ...place(-3.6, 1.7, 6.2), 'transform.rotate.x': -4, 'transform.rotate.y': -35, 'camera.fov': 46 }) },
  { kind: 'sun', id: 'moon', name: 'Moon', channels: value({ 'transform.rotate.x': -38, 'transform.rotate.y': 150, 'light.strength': 0.35, 'light.color.r': 0.6, 'light.color.g': 0.74, 'light.color.b': 1, 'light.angle': 0.6 }) },
  mesh('water', 'Sea', undefined, { kind: 'plane', width: 300, depth: 200 }, 'sea', place(0, -0.9, -60)),
  mesh('wall', 'Quay wall', undefined, { kind: 'box', width: 26, height: 1.4, depth: 5, rounding: 0.08, roundSegments: 2 }, 'stone', place(7, -0.7, 0)),
  { kind: 'repeat', id: 'row', name: 'Row of lamps', channels: value({ ...place(-1.4, 0, -1.6), 'repeat.count': 7, 'repeat.shift': 8, 'repeat.translate.x': 2.4 }) },
  { kind: 'group', id: 'post', name: 'Lamp post', parent: 'row' },
  mesh('foot', 'Foot', 'post', { kind: 'cylinder', radius: 0.17, topRadius: 0.1, height: 0.3, segments: 24, rounding: 0.04, roundSegments: 4 }, 'iron', { 'transform.translate.y': 0.15 }),
  mesh('pole', 'Pole', 'post', { kind: 'cylinder', radius: 0.05, topRadius: 0.04, height: 2.4, segments: 16 }, 'iron', { 'transform.translate.y': 1.4 }),
  mesh('arm', 'Arm', 'post', { kind: 'tube', points: [{ x: 0, y: 2.5, z: 0 }, { x: 0, y: 2.85, z: 0.12 }, { x: 0, y: 2.9, z: 0.45 }, { x: 0, y: 2.62, z: 0.6 }], thickness: 0.06, segments: 8, sides: 10 }, 'iron'),
  mesh('hood', 'Hood', 'post', { kind: 'cylinder', radius: 0.26, topRadius: 0.05, height: 0.16, segments: 32, rounding: 0.02 }, 'iron', place(0, 2.56, 0.6)),
  mesh('dark', 'Bulb, dark', 'post', { kind: 'geodesic', radius: 0.12, divisions: 6 }, 'glass', place(0, 2.44, 0.6)),
  mesh('bulb', 'Bulb, lit', 'post', { kind: 'geodesic', radius: 0.125, divisions: 6 }, 'glow', { ...place(0, 2.44, 0.6), visible: lit(1) }),
  { kind: 'lamp', id: 'light', name: 'Light', parent: 'post', channels: value({ ...place(0, 2.2, 0.72), 'light.strength': lit(42), 'light.color.r': 1, 'light.color.g': 0.72, 'light.color.b': 0.4, 'light.radius': 0.1 }) },
  { kind: 'repeat', id: 'bollards', name: 'Bollards', channels: value({ ...place(-0.2, 0, 1.9), 'repeat.count': 6, 'repeat.translate.x': 2.4 }) },
  mesh('bollard', 'Bollard', 'bollards', { kind: 'cylinder', radius: 0.15, topRadius: 0.12, height: 0.5, segments: 32, rounding: 0.07, roundSegments: 5 }, 'iron', { 'transform.translate.y': 0.25 }),
  mesh('crate', 'Oak crate', undefined, { kind: 'box', width: 0.6, height: 0.5, depth: 0.5, rounding: 0.02 }, 'oak', { ...place(0.3, 0.25, 1.5), 'transform.rotate.y': 24 }),
  { kind: 'group', id: 'lantern', name: 'Lantern', channels: value({ ...place(0.3, 0.5, 1.5), 'transform.rotate.y': 24 }) },
  mesh('pane', 'Glass', 'lantern', { kind: 'cylinder', radius: 0.1, topRadius: 0.1, height: 0.26, segments: 48, rounding: 0.03, roundSegments: 6 }, 'clear', { 'transform.translate.y': 0.16 }),
  mesh('candle', 'Candle', 'lantern', { kind: 'cylinder', radius: 0.035, topRadius: 0.035, height: 0.12, segments: 32, rounding: 0.012, roundSegments: 4 }, 'wax', { 'transform.translate.y': 0.1 }),
  mesh('flame', 'Flame', 'lantern', { kind: 'geodesic', radius: 0.016, divisions: 4 }, 'glow', { 'transform.translate.y': 0.188, 'transform.scale.y': 1.9 }),
  mesh('lid', 'Lid', 'lantern', { kind: 'cylinder', radius: 0.12, topRadius: 0.05, height: 0.06, segments: 48, rounding: 0.01 }, 'brass', { 'transform.translate.y': 0.31 }),
  mesh('base', 'Base', 'lantern', { kind: 'cylinder', radius: 0.12, topRadius: 0.11, height: 0.03, segments: 48, rounding: 0.01 }, 'brass', { 'transform.translate.y': 0.015 }),
  mesh('coil', 'Coil of rope', undefined, { kind: 'helix', radius: 0.34, topRadius: 0.3, height: 0.2, turns: 3.5, thickness: 0.07, segments: 40 }, 'rope', place(1.1, 0.14, 1.1)),
];
write('quay-lamps.shot.json', {
  name: 'Quay lamps',
  range: { first: 0, last: 143 },
  camera: 'cam',
  world: value({ 'sky.strength': 0.16, 'sky.top.r': 0.1, 'sky.top.g': 0.18, 'sky.top.b': 0.42, 'sky.horizon.r': 0.42, 'sky.horizon.g': 0.36, 'sky.horizon.b': 0.5, 'sky.ground.r': 0.03, 'sky.ground.g': 0.04, 'sky.ground.b': 0.06, exposure: 1 }),
  nodes: lamps,
  materials: [
    ...['sea', 'iron', 'glass'].map(material),
    {
      id: 'stone', name: 'Quay bricks',
      channels: value({ 'look.color.r': 1, 'look.color.g': 1, 'look.color.b': 1, 'look.roughness': 0.8, 'map.color.first.r': 0.3, 'map.color.first.g': 0.26, 'map.color.first.b': 0.25, 'map.color.second.r': 0.16, 'map.color.second.g': 0.16, 'map.color.second.b': 0.17, 'map.bump.strength': 0.006 }),
      maps: [{ slot: 'color', source: { kind: 'bricks' }, projection: 'box' }, { slot: 'bump', source: { kind: 'bricks' }, projection: 'box' }],
    },
    { id: 'oak', name: 'Oak', channels: value({ 'look.color.r': 1, 'look.color.g': 1, 'look.color.b': 1, 'look.roughness': 0.6, 'map.color.scale.x': 2, 'map.color.scale.y': 2, 'map.color.rings': 6 }), maps: [{ slot: 'color', source: { kind: 'wood' }, projection: 'solid' }] },
    { id: 'clear', name: 'Lantern glass', channels: value({ 'look.color.r': 0.96, 'look.color.g': 0.98, 'look.color.b': 0.97, 'look.roughness': 0.02, 'look.glass': 1, 'look.thin': 1 }) },
    { id: 'wax', name: 'Candle wax', channels: value({ 'look.color.r': 0.9, 'look.color.g': 0.72, 'look.color.b': 0.45, 'look.roughness': 0.5, 'look.subsurface': 1, 'look.subsurfaceRadius': 0.01 }) },
    { id: 'brass', name: 'Brass', channels: value({ 'look.color.r': 0.87, 'look.color.g': 0.66, 'look.color.b': 0.28, 'look.roughness': 0.25, 'look.metallic': 1 }) },
    { id: 'glow', name: 'Lamplight', channels: value({ 'look.color.r': 1, 'look.color.g': 0.78, 'look.color.b': 0.48, 'look.emission': 5 }) },
    { id: 'rope', name: 'Rope', channels: value({ 'look.color.r': 0.55, 'look.color.g': 0.42, 'look.color.b': 0.25, 'look.roughness': 0.9, 'map.bump.strength': 0.008, 'map.bump.size': 18 }), maps: [{ slot: 'bump', source: { kind: 'noise' }, projection: 'solid' }] },
  ],
});

// The lighthouse on a turntable: one turn in 360 frames, a degree each, with two keys.
const tower = below('lighthouse').filter((n) => n.id !== 'islet').map((n) => (n.id === 'lighthouse' ? { ...n, parent: 'table', channels: {} } : n));
const used = new Set(tower.flatMap((n) => n.material ?? []));
write('turntable.shot.json', {
  name: 'Lighthouse turntable',
  range: { first: 0, last: 359 },
  camera: 'cam',
  world: value({ 'sky.strength': 0.9, 'sky.top.r': 0.5, 'sky.top.g': 0.56, 'sky.top.b': 0.62, 'sky.horizon.r': 0.9, 'sky.horizon.g': 0.86, 'sky.horizon.b': 0.8, 'sky.ground.r': 0.2, 'sky.ground.g': 0.2, 'sky.ground.b': 0.2 }),
  nodes: [
    { kind: 'camera', id: 'cam', name: 'Turntable camera', channels: value({ ...place(0, 5.2, 17), 'transform.rotate.x': -5, 'camera.fov': 32 }) },
    { kind: 'sun', id: 'key', name: 'Key light', channels: value({ 'transform.rotate.x': -38, 'transform.rotate.y': -40, 'light.strength': 2.6, 'light.color.g': 0.94, 'light.color.b': 0.84, 'light.angle': 6 }) },
    { kind: 'lamp', id: 'rim', name: 'Rim light', channels: value({ ...place(7, 7, -8), 'light.strength': 900, 'light.color.r': 0.62, 'light.color.g': 0.8, 'light.radius': 0.8 }) },
    mesh('ground', 'Floor', undefined, { kind: 'disc', radius: 300, segments: 96 }, 'floor', { 'transform.translate.y': -0.36 }),
    { kind: 'group', id: 'table', name: 'Turntable', channels: value({ 'transform.rotate.y': curve(0, [{ frame: 0, value: 0, segment: 'linear' }, { frame: 360, value: 360 }], { before: { kind: 'loopOffset' }, after: { kind: 'loopOffset' } }) }) },
    mesh('plate', 'Plate', 'table', { kind: 'cylinder', radius: 2.6, topRadius: 2.6, height: 0.3, segments: 96, rounding: 0.06, roundSegments: 5 }, 'iron', { 'transform.translate.y': -0.16 }),
    mesh('door', 'Door', 'lighthouse', { kind: 'box', width: 0.7, height: 1.4, depth: 0.2, rounding: 0.05 }, 'wood', place(0, 0.9, 0.93)),
    { kind: 'repeat', id: 'windows', name: 'Windows', parent: 'lighthouse', channels: value({ 'transform.translate.y': 2.9, 'repeat.count': 5, 'repeat.translate.x': 0, 'repeat.translate.y': 0.62, 'repeat.rotate.y': 74, 'repeat.scale.x': 0.94, 'repeat.scale.z': 0.94 }) },
    mesh('window', 'Window', 'windows', { kind: 'cylinder', radius: 0.17, topRadius: 0.17, height: 0.2, segments: 32, rounding: 0.04 }, 'iron', { 'transform.translate.z': 0.8, 'transform.rotate.x': 90 }),
    ...tower,
  ],
  materials: [...new Set([...used, 'iron', 'wood'])].map(material).concat({ id: 'floor', name: 'Floor', channels: value({ 'look.color.r': 0.46, 'look.color.g': 0.44, 'look.color.b': 0.42, 'look.roughness': 0.9 }) }),
});

// The fender alone, once as it was blocked and once polished. Blocked: the poses that tell it, each held until the next.
const quayAndFender = ['cam', 'cam-close', 'sun', 'water'].flatMap(below).concat(below('quay').filter((n) => !n.id.startsWith('post') && n.id !== 'banner'), below('fender'));
const told = new Set([0, 12, 29, 41, 53, 61, 69, 75, 81, 85, 89]);
const blocked = (channel) => {
  if (!channel.curve) return channel;
  const keys = channel.curve.keys.filter((k) => told.has(k.frame)).map(({ frame, value: v }) => ({ frame, value: v, segment: 'hold' }));
  // What a pose does not change is not keyed in it.
  const moves = keys.filter((k, i) => i === 0 || k.value !== keys[i - 1].value);
  return moves.length > 0 ? { ...channel, curve: { keys: moves } } : { value: channel.value };
};
const fenderShot = (file, name, nodes, more = {}) =>
  write(file, { name, range: { first: 0, last: 107 }, camera: 'cam-close', world: quay.world, nodes, materials: quay.materials.filter((m) => nodes.some((n) => n.material === m.id)), ...more });
const poses = [[0, 'High', 'sky'], [29, 'Touch', 'rose'], [41, 'Up', 'sky'], [53, 'Touch', 'rose'], [61, 'Up', 'sky'], [69, 'Touch', 'rose']];
fenderShot('quay-fender-blocked.shot.json', 'Fender, blocked', quayAndFender.map((n) => (n.id.startsWith('fender') ? { ...n, channels: Object.fromEntries(Object.entries(n.channels ?? {}).map(([p, c]) => [p, blocked(c)])) } : n)), {
  newKeys: { segment: 'hold' },
  markers: poses.map(([frame, name, color]) => ({ id: `m${frame}`, frame, name, color })),
});

// What one hears of it: a dull thud on each contact, softer as it falls from less high.
const THUDS = [[29, 2.46], [53, 1.23], [69, 0.55], [81, 0.31], [89, 0.14], [93, 0.03]];
function thuds(seconds) {
  const heard = new Float64Array(48000 * seconds);
  let seed = 7;
  const noise = () => (seed = (seed * 1103515245 + 12345) % 2147483648) / 1073741824 - 1;
  for (const [frame, height] of THUDS) {
    const loud = 0.75 * Math.sqrt(height / THUDS[0][1]);
    let [dull, phase] = [0, 0];
    for (let i = 0; i < 24000; i++) {
      const t = i / 48000;
      // Rubber on stone: a tone that sinks, and the slap, dulled.
      phase += (2 * Math.PI * (48 + 60 * Math.exp(-t / 0.03))) / 48000;
      dull += 0.12 * (noise() - dull);
      const at = Math.round(frame * 2000) + i;
      if (at < heard.length) heard[at] += loud * (Math.sin(phase) * Math.exp(-t / 0.09) + 1.6 * dull * Math.exp(-t / 0.012)) * Math.min(1, i / 48);
    }
  }
  return heard;
}
function wave(samples) {
  const bytes = Buffer.alloc(44 + 2 * samples.length);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + 2 * samples.length, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(48000, 24);
  bytes.writeUInt32LE(96000, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(2 * samples.length, 40);
  samples.forEach((v, i) => bytes.writeInt16LE(Math.round(32000 * Math.max(-1, Math.min(1, v))), 44 + 2 * i));
  return bytes;
}
/** A sound as the program keeps it, beside a shot; gives the name of the asset. */
function keep(shot, samples) {
  const beside = new URL(`${shot}.assets/`, folder);
  const args = '-v error -f wav -i pipe:0 -af pan=stereo|c0=c0|c1=c0 -ar 48000 -sample_fmt s16 -c:a flac -map_metadata -1 -fflags +bitexact -flags +bitexact -f flac pipe:1'.split(' ');
  const flac = execFileSync('ffmpeg', args, { input: wave(samples), maxBuffer: 1 << 26 });
  const name = createHash('sha256').update(flac).digest('hex');
  rmSync(beside, { recursive: true, force: true });
  mkdirSync(beside);
  writeFileSync(new URL(`${name}.flac`, beside), flac);
  return name;
}
fenderShot('quay-fender-polished.shot.json', 'Fender, polished', quayAndFender, {
  sounds: [{ id: 'thuds', name: 'Thuds', asset: keep('quay-fender-polished', thuds(4.5)), seconds: 4.5, start: 0 }],
});

// A ferry noses a drifting raft aside: locked down until it is touched, two touches, and nothing passes through.
const soft = (frame, v, slope, reach = 6) => ({ frame, value: v, in: { kind: 'free', frames: -reach, value: -slope * reach }, out: { kind: 'free', frames: reach, value: slope * reach } });
const still = (frame, v, segment) => ({ frame, value: v, in: { kind: 'flat' }, out: { kind: 'flat' }, ...(segment ? { segment } : {}) });
const stays = (frame, v) => still(frame, v, 'hold');
// The bow lies at 0 where it touches the raft for the first time.
const ferryX = [still(0, -6), soft(64, 0, 0.03, 10), still(84, 0.18, 'hold'), still(110, 0.18), soft(150, 0.6, 0.03, 10), still(178, 0.98, 'hold')];
const raftX = [stays(0, 0), { ...still(64, 0), out: { kind: 'free', frames: 6, value: 0.2 } }, still(104, 0.6, 'hold'), { ...still(150, 0.6), in: { kind: 'flat' }, out: { kind: 'free', frames: 6, value: 0.2 } }, stays(215, 2.1)];
const turned = [stays(0, 0), { ...still(150, 0), out: { kind: 'free', frames: 8, value: 1.2 } }, stays(215, 30)];
const hull = (id, name, shape, look, at) => mesh(id, name, 'ferry', shape, look, at);
write('quay-ferry-and-raft.shot.json', {
  name: 'Ferry and raft',
  range: { first: 0, last: 239 },
  camera: 'cam',
  world: quay.world,
  nodes: [
    { kind: 'camera', id: 'cam', name: 'Harbour camera', channels: value({ ...place(-0.6, 3.4, 9.4), 'transform.rotate.x': -17, 'camera.fov': 34 }) },
    quay.nodes.find((n) => n.id === 'sun'),
    mesh('water', 'Sea', undefined, { kind: 'plane', width: 300, depth: 200 }, 'sea', place(0, -0.05, -60)),
    { kind: 'group', id: 'ferry', name: 'Ferry', channels: value({ 'transform.translate.x': { value: -6, curve: { keys: ferryX } }, 'transform.translate.z': 0.55 }) },
    hull('hull', 'Hull', { kind: 'box', width: 3.6, height: 0.9, depth: 1.5, rounding: 0.16, roundSegments: 5 }, 'red', place(-2.1, 0.12, 0)),
    hull('nose', 'Bow', { kind: 'cylinder', radius: 0.52, topRadius: 0.58, height: 0.86, segments: 48, rounding: 0.1, roundSegments: 5 }, 'red', place(-0.58, 0.14, 0)),
    hull('rail', 'Rail', { kind: 'box', width: 3.4, height: 0.14, depth: 1.54, rounding: 0.06 }, 'white', place(-2.1, 0.58, 0)),
    hull('house', 'Deckhouse', { kind: 'box', width: 1.9, height: 0.8, depth: 1.05, rounding: 0.1, roundSegments: 4 }, 'white', place(-2.35, 1, 0)),
    hull('bridge', 'Bridge', { kind: 'box', width: 0.8, height: 0.5, depth: 0.9, rounding: 0.08, roundSegments: 4 }, 'white', place(-1.85, 1.6, 0)),
    hull('pane', 'Window', { kind: 'box', width: 0.06, height: 0.22, depth: 0.72, rounding: 0.02 }, 'iron', place(-1.45, 1.66, 0)),
    hull('funnel', 'Funnel', { kind: 'cylinder', radius: 0.2, topRadius: 0.17, height: 0.75, segments: 32, rounding: 0.03 }, 'red', place(-2.75, 1.7, 0)),
    hull('cap', 'Funnel cap', { kind: 'cylinder', radius: 0.185, topRadius: 0.175, height: 0.12, segments: 32 }, 'iron', place(-2.75, 2.13, 0)),
    { kind: 'group', id: 'raft', name: 'Raft', channels: value({ 'transform.translate.x': { value: 0, curve: { keys: raftX } }, 'transform.rotate.y': { value: 0, curve: { keys: turned } } }) },
    // Its near edge lies a millimetre before the bow.
    { kind: 'group', id: 'deck', name: 'Deck', parent: 'raft', channels: value({ 'transform.translate.x': 0.6855 }) },
    ...[0, 1, 2, 3].map((i) => mesh(`log${i}`, `Log ${i + 1}`, 'deck', { kind: 'cylinder', radius: 0.18, topRadius: 0.18, height: 2.5, segments: 24, rounding: 0.03 }, 'wood', { ...place(-0.54 + 0.38 * i, 0.06, 0), 'transform.rotate.x': 90 })),
    mesh('plank1', 'Plank', 'deck', { kind: 'box', width: 1.48, height: 0.06, depth: 0.24, rounding: 0.01 }, 'wood', place(0.03, 0.26, -0.8)),
    mesh('plank2', 'Plank 2', 'deck', { kind: 'box', width: 1.48, height: 0.06, depth: 0.24, rounding: 0.01 }, 'wood', place(0.03, 0.26, 0.8)),
    mesh('pole', 'Pole', 'deck', { kind: 'cylinder', radius: 0.035, topRadius: 0.03, height: 1.1, segments: 16 }, 'wood', place(0.3, 0.74, -0.8)),
    mesh('flag', 'Flag', 'deck', { kind: 'box', width: 0.42, height: 0.26, depth: 0.01 }, 'cloth', place(0.54, 1.12, -0.8)),
  ],
  materials: ['sea', 'red', 'white', 'iron', 'wood', 'cloth'].map(material),
});
