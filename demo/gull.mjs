// Makes demo/gull.glb: a gull with joints, a skin and morph targets, which the demo imports like any other file. node demo/gull.mjs
import { createRequire } from 'node:module';

const load = createRequire(new URL('../web/package.json', import.meta.url));
const { Document, NodeIO } = await import(load.resolve('@gltf-transform/core'));
const document = new Document();
document.getRoot().getAsset().generator = 'Lantern Quay';
const buffer = document.createBuffer();
const accessor = (type, array) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);

// Half the body's width and height along its length, tail to beak, and how high its middle lies. Metres.
const profile = [
  // z, half width, half height, middle
  [-0.44, 0.055, 0.004, 0.012],
  [-0.36, 0.06, 0.012, 0.008],
  [-0.26, 0.05, 0.045, 0.0],
  [-0.14, 0.075, 0.075, -0.008],
  [0.0, 0.09, 0.092, -0.012],
  [0.12, 0.078, 0.08, -0.002],
  [0.2, 0.052, 0.056, 0.02],
  [0.26, 0.046, 0.05, 0.036],
  [0.32, 0.042, 0.043, 0.04],
  [0.36, 0.024, 0.024, 0.034],
  [0.4, 0.013, 0.014, 0.028],
  [0.45, 0.009, 0.011, 0.021],
  [0.475, 0.001, 0.001, 0.01],
];
const smooth = (t) => t * t * (3 - 2 * t);
const clamp = (t) => Math.min(1, Math.max(0, t));

/** The profile between its rows, by a curve through them (Catmull and Rom, 1974). */
function along(t) {
  const at = t * (profile.length - 1);
  const i = Math.min(profile.length - 2, Math.floor(at));
  const u = at - i;
  const row = (k) => profile[Math.min(profile.length - 1, Math.max(0, k))];
  return profile[0].map((_, c) => {
    const [a, b, d, e] = [row(i - 1)[c], row(i)[c], row(i + 1)[c], row(i + 2)[c]];
    return b + 0.5 * u * (d - a + u * (2 * a - 5 * b + 4 * d - e + u * (3 * (b - d) + e - a)));
  });
}

const vertices = [];
const faces = { feathers: [], wing: [], tip: [], beak: [], eye: [] };

/** A closed grid of quads, its columns going round; a row is given to one of the materials. */
function tube(columns, rows, at, material) {
  const first = vertices.length;
  for (let r = 0; r <= rows; r++) for (let c = 0; c < columns; c++) vertices.push(at(c / columns, r / rows));
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const [a, b] = [first + r * columns + c, first + r * columns + ((c + 1) % columns)];
      const [d, e] = [a + columns, b + columns];
      faces[material((r + 0.5) / rows)].push(a, b, e, a, e, d);
    }
}

// Joints: where they stand, and what hangs below what. Wings have an elbow and a wrist.
const joints = [
  ['root', null, [0, 0, 0]],
  ['neck', 'root', [0, 0.0, 0.16]],
  ['head', 'neck', [0, 0.03, 0.26]],
  ['tail', 'root', [0, 0.0, -0.24]],
  ...['left', 'right'].flatMap((side, s) => {
    const x = s === 0 ? 1 : -1;
    return [
      [`${side} shoulder`, 'root', [0.06 * x, 0.04, 0.06]],
      [`${side} elbow`, `${side} shoulder`, [0.27 * x, 0.055, 0.03]],
      [`${side} wrist`, `${side} elbow`, [0.5 * x, 0.05, 0.05]],
    ];
  }),
];
const joint = Object.fromEntries(joints.map(([name], i) => [name, i]));

tube(
  28,
  60,
  (u, t) => {
    const [z, w, h, y] = along(t);
    const a = 2 * Math.PI * u;
    const head = smooth(clamp((z - 0.1) / 0.14));
    const tail = smooth(clamp((-0.12 - z) / 0.16));
    return {
      p: [w * Math.cos(a), y + h * Math.sin(a), z],
      weights: [
        ['root', (1 - head) * (1 - tail)],
        ['neck', head * (1 - smooth(clamp((z - 0.2) / 0.08)))],
        ['head', head * smooth(clamp((z - 0.2) / 0.08))],
        ['tail', tail],
      ],
      lower: Math.sin(a) < 0 && z > 0.35,
      breast: Math.max(0, -Math.sin(a)) * Math.exp(-(((z - 0.04) / 0.12) ** 2)),
    };
  },
  (t) => (along(t)[0] > 0.372 ? 'beak' : 'feathers'),
);

for (const [side, x] of [
  ['left', 1],
  ['right', -1],
]) {
  tube(
    18,
    44,
    (u, t) => {
      // The wing from the body to its tip: its chord, its sweep, and a thin section.
      const span = 0.04 + 0.66 * t;
      const chord = 0.2 * Math.sqrt(Math.max(0, 1 - t ** 2.4)) * (1 - 0.25 * t);
      const middle = 0.02 + 0.05 * Math.sin(Math.PI * t) - 0.16 * t * t;
      // The other way round on the other side, so that faces look outwards.
      const a = 2 * Math.PI * (x > 0 ? u : 1 - u);
      const z = middle + 0.5 * chord * Math.cos(a) * (Math.cos(a) > 0 ? 0.8 : 1.2);
      const y =
        0.045 +
        0.016 * Math.sin(Math.PI * t) +
        0.035 * chord * Math.sin(a) * (1.2 + Math.cos(a)) +
        0.1 * chord * (0.25 - (0.5 * Math.cos(a)) ** 2);
      const [s, e, w] = [
        smooth(clamp((span - 0.05) / 0.1)),
        smooth(clamp((span - 0.21) / 0.12)),
        smooth(clamp((span - 0.44) / 0.12)),
      ];
      return {
        p: [x * span, y, z],
        weights: [
          ['root', 1 - s],
          [`${side} shoulder`, s * (1 - e)],
          [`${side} elbow`, s * e * (1 - w)],
          [`${side} wrist`, s * e * w],
        ],
      };
    },
    (t) => (t > 0.82 ? 'tip' : 'wing'),
  );
  // An eye.
  tube(
    10,
    8,
    (u, t) => {
      const [a, b] = [2 * Math.PI * (x > 0 ? u : 1 - u), Math.PI * (t - 0.5)];
      return {
        p: [
          x * (0.034 + 0.008 * Math.sin(b)),
          0.053 + 0.008 * Math.cos(b) * Math.sin(a),
          0.318 + 0.008 * Math.cos(b) * Math.cos(a),
        ],
        weights: [['head', 1]],
      };
    },
    () => 'eye',
  );
}

const n = vertices.length;
const positions = new Float32Array(vertices.flatMap((v) => v.p));
const normals = new Float32Array(3 * n);
for (const list of Object.values(faces))
  for (let i = 0; i < list.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => vertices[list[i + k]].p);
    const [u, v] = [b.map((e, k) => e - a[k]), c.map((e, k) => e - a[k])];
    const cross = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    for (let k = 0; k < 3; k++) for (let j = 0; j < 3; j++) normals[3 * list[i + k] + j] += cross[j];
  }
for (let i = 0; i < normals.length; i += 3) {
  const length = Math.hypot(normals[i], normals[i + 1], normals[i + 2]);
  for (let j = 0; j < 3; j++) normals[i + j] = length > 0 ? normals[i + j] / length : j === 1 ? 1 : 0;
}
const [carriers, weights] = [new Uint8Array(4 * n), new Float32Array(4 * n)];
vertices.forEach((v, i) => {
  const own = v.weights.filter(([, w]) => w > 1e-4).slice(0, 4);
  const sum = own.reduce((s, [, w]) => s + w, 0);
  own.forEach(([name, w], k) => {
    carriers[4 * i + k] = joint[name];
    weights[4 * i + k] = w / sum;
  });
});
// The beak opens about its root; the breast fills with air.
const targets = {
  'open beak': (v) => (v.lower ? [0, -0.55 * (v.p[2] - 0.35), -0.1 * (v.p[2] - 0.35)] : [0, 0, 0]),
  breathe: (v) => (v.breast ? [0.25 * v.p[0] * v.breast, -0.022 * v.breast, 0] : [0, 0, 0]),
};
const shared = {
  POSITION: accessor('VEC3', positions),
  NORMAL: accessor('VEC3', normals),
  JOINTS_0: accessor('VEC4', carriers),
  WEIGHTS_0: accessor('VEC4', weights),
};
const moved = Object.fromEntries(
  Object.entries(targets).map(([name, move]) => [name, accessor('VEC3', new Float32Array(vertices.flatMap(move)))]),
);
const looks = {
  feathers: [0.86, 0.86, 0.84, 0.7],
  wing: [0.42, 0.46, 0.5, 0.6],
  tip: [0.03, 0.03, 0.035, 0.5],
  beak: [0.85, 0.42, 0.04, 0.35],
  eye: [0.01, 0.01, 0.01, 0.1],
};

const mesh = document
  .createMesh('gull')
  .setExtras({ targetNames: Object.keys(targets) })
  .setWeights([0, 0]);
for (const [name, list] of Object.entries(faces)) {
  const [r, g, b, roughness] = looks[name];
  // Each part brings the vertices that it uses.
  const used = [...new Set(list)].sort((a, c) => a - c);
  const place = new Map(used.map((v, i) => [v, i]));
  const part = (source) => {
    const size = source.getElementSize();
    const from = source.getArray();
    const array = new from.constructor(size * used.length);
    used.forEach((v, i) => array.set(from.subarray(size * v, size * (v + 1)), size * i));
    return accessor(source.getType(), array);
  };
  const primitive = document
    .createPrimitive()
    .setIndices(
      accessor(
        'SCALAR',
        Uint16Array.from(list, (v) => place.get(v)),
      ),
    )
    .setMaterial(
      document.createMaterial(name).setBaseColorFactor([r, g, b, 1]).setRoughnessFactor(roughness).setMetallicFactor(0),
    );
  for (const [attribute, source] of Object.entries(shared)) primitive.setAttribute(attribute, part(source));
  for (const [target, source] of Object.entries(moved))
    primitive.addTarget(document.createPrimitiveTarget(target).setAttribute('POSITION', part(source)));
  mesh.addPrimitive(primitive);
}
for (const source of [...Object.values(shared), ...Object.values(moved)]) source.dispose();

const nodes = joints.map(([name, parent, at]) => {
  const from = parent ? joints[joint[parent]][2] : [0, 0, 0];
  return document.createNode(name).setTranslation(at.map((c, i) => c - from[i]));
});
joints.forEach(([, parent], i) => parent && nodes[joint[parent]].addChild(nodes[i]));
const skin = document
  .createSkin('gull')
  .setInverseBindMatrices(
    accessor(
      'MAT4',
      new Float32Array(joints.flatMap(([, , [x, y, z]]) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -x, -y, -z, 1])),
    ),
  );
nodes.forEach((j) => skin.addJoint(j));
const gull = document
  .createNode('Gull')
  .addChild(nodes[0])
  .addChild(document.createNode('Plumage').setMesh(mesh).setSkin(skin))
  .setTranslation([0, 1.2, 0]);
const eye = document
  .createNode('Camera')
  .setCamera(document.createCamera('Camera').setType('perspective').setYFov(0.6).setZNear(0.05).setZFar(100))
  .setTranslation([1.35, 1.65, 1.75])
  .setRotation(look([1.35, 1.65, 1.75], [0, 1.22, 0]));
document.createScene('Gull').addChild(gull).addChild(eye);

/** The quaternion of a camera that looks from one point at another, +Y up. */
function look(from, to) {
  const [x, y, z] = from.map((c, i) => c - to[i]);
  const [yaw, pitch] = [Math.atan2(x, z) / 2, -Math.atan2(y, Math.hypot(x, z)) / 2];
  return [
    Math.cos(yaw) * Math.sin(pitch),
    Math.sin(yaw) * Math.cos(pitch),
    -Math.sin(yaw) * Math.sin(pitch),
    Math.cos(yaw) * Math.cos(pitch),
  ];
}

// A beat of one second, keyed every 1/8 s; it repeats four times. The arm leads, the hand follows and folds on the way up.
const animation = document.createAnimation('beat');
const [beats, perBeat] = [4, 8];
const times = Float32Array.from({ length: beats * perBeat + 1 }, (_, i) => i / perBeat);
const input = accessor('SCALAR', times);
function track(node, path, type, values, interpolation = 'LINEAR') {
  const sampler = document
    .createAnimationSampler()
    .setInput(input)
    .setOutput(accessor(type, new Float32Array(values)))
    .setInterpolation(interpolation);
  animation
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
}
const wave = (t, lag) => Math.cos(2 * Math.PI * (t - lag));
const turn = (axis, degrees) => {
  const a = (degrees * Math.PI) / 360;
  return [...axis.map((c) => c * Math.sin(a)), Math.cos(a)];
};
for (const [side, x] of [
  ['left', 1],
  ['right', -1],
]) {
  track(
    nodes[joint[`${side} shoulder`]],
    'rotation',
    'VEC4',
    [...times].flatMap((t) => turn([0, 0, x], 8 + 34 * wave(t, 0))),
  );
  track(
    nodes[joint[`${side} elbow`]],
    'rotation',
    'VEC4',
    [...times].flatMap((t) => turn([0, 0, x], -8 + 20 * wave(t, 0.1))),
  );
  track(
    nodes[joint[`${side} wrist`]],
    'rotation',
    'VEC4',
    [...times].flatMap((t) => turn([0, 0, x], -6 + 26 * wave(t, 0.2))),
  );
}
track(
  nodes[joint.tail],
  'rotation',
  'VEC4',
  [...times].flatMap((t) => turn([1, 0, 0], 5 * wave(t, 0.3))),
);
// The body rises as the wings go down: a smooth curve with its slopes.
track(
  gull,
  'translation',
  'VEC3',
  [...times].flatMap((t) => {
    const slope = 0.05 * 2 * Math.PI * Math.sin(2 * Math.PI * (t - 0.05));
    return [0, slope, 0, 0, 1.2 - 0.05 * wave(t, 0.05), 0, 0, slope, 0];
  }),
  'CUBICSPLINE',
);
track(
  gull.listChildren()[1],
  'weights',
  'SCALAR',
  [...times].flatMap((t) => [
    t >= 2 && t < 3 ? Math.max(0, Math.sin(2 * Math.PI * 2 * (t - 2))) : 0,
    0.5 - 0.5 * Math.cos(Math.PI * t),
  ]),
);

await new NodeIO().write(new URL('gull.glb', import.meta.url).pathname, document);
console.log(`${n} vertices, ${Object.values(faces).flat().length / 3} triangles, ${joints.length} joints`);
