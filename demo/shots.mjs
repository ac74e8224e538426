// Makes demo/quay-lamps.shot.json and demo/turntable.shot.json from parts of the quay: node demo/shots.mjs
import { readFileSync, writeFileSync } from 'node:fs';

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

// A row of lamps along the quay: one lamp, repeated. Each lights eight frames after the one before it.
const lit = (on) => curve(0, [{ frame: 0, value: 0, segment: 'hold' }, { frame: 12, value: on, segment: 'hold' }, { frame: 96, value: 0, segment: 'hold' }], { before: { kind: 'hold' }, after: { kind: 'hold' } });
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
