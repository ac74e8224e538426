// Files of glTF 2.0 against three.js: where everything stands, and how shapes are bent, at many times.
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

// The packages live beside the interface.
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const three = await import(load.resolve('three').replace(/three\.cjs$/, 'three.module.js'));
const { GLTFLoader } = await import(load.resolve('three/examples/jsm/loaders/GLTFLoader.js'));
const { Document, NodeIO } = await import(load.resolve('@gltf-transform/core'));
// What its loader expects of a browser.
Object.assign(globalThis, { self: globalThis, ProgressEvent: Event });

const root = new URL('../..', import.meta.url).pathname;
const program = join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus');
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-gltf-'));
const fps = 30;

type Sample = {
  nodes: { path: string; name: string; world: number[] }[];
  meshes: { node: string; positions: number[]; indices: number[] }[];
};

const run = (...args: string[]) => execFileSync(program, args, { maxBuffer: 1 << 28 }).toString();
const sample = (file: string, frame: number) =>
  JSON.parse(run('sample', file, '--frame', String(frame), '--fps', String(fps), '--mesh')) as Sample;

async function openInThree(file: string) {
  const bytes = readFileSync(file);
  const loader = new GLTFLoader();
  const gltf = await loader.parseAsync(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length), '');
  const mixer = new three.AnimationMixer(gltf.scene);
  if (gltf.animations.length > 0) {
    const action = mixer.clipAction(gltf.animations[0]);
    action.setLoop(three.LoopOnce, 1);
    action.clampWhenFinished = true;
    action.play();
  }
  return (seconds: number) => {
    mixer.setTime(seconds);
    gltf.scene.updateMatrixWorld(true);
    gltf.scene.traverse((o: any) => o.isSkinnedMesh && o.skeleton.update());
    return gltf;
  };
}

/** What three.js calls the nodes of the file, and the meshes that hang in each. */
function nodesOf(gltf: any) {
  const found = new Map<number, { object: any; meshes: any[] }>();
  gltf.scene.traverse((object: any) => {
    const index = gltf.parser.associations.get(object)?.nodes;
    if (index === undefined) return;
    // Several materials are several meshes there, below the node.
    const parts = object.children.filter((c: any) => c.isMesh && gltf.parser.associations.get(c)?.nodes === undefined);
    found.set(index, { object, meshes: object.isMesh ? [object] : parts });
  });
  return found;
}

/** Names from the root down, of every node of a file. */
function pathsOf(json: any): string[] {
  const parents = new Map<number, number>();
  json.nodes.forEach((n: any, i: number) => n.children?.forEach((c: number) => parents.set(c, i)));
  const path = (i: number): string => {
    const parent = parents.get(i);
    return `${parent === undefined ? '' : path(parent)}/${json.nodes[i].name ?? `Node ${i}`}`;
  };
  return json.nodes.map((_: any, i: number) => path(i));
}

/**
 * Largest difference of world matrices and of the corners of triangles, in parts of the scene's size.
 * @param source What is sampled by us; the same file without it.
 * @param rate How much slower the source counts its frames.
 */
async function compare(file: string, times: number[], source = file, rate = 1) {
  const at = await openInThree(file);
  let worst = 0;
  let corners = 0;
  for (const seconds of times) {
    const ours = sample(source, seconds * fps);
    const gltf = at(seconds / rate);
    const size = Math.max(1e-3, new three.Box3().setFromObject(gltf.scene, true).getSize(new three.Vector3()).length());
    const paths = pathsOf(gltf.parser.json);
    for (const [index, { object, meshes }] of nodesOf(gltf)) {
      const own = ours.nodes.filter((n) => n.path === paths[index]);
      expect(own.length, `${paths[index]} at ${seconds} s`).toBe(1);
      object.matrixWorld.elements.forEach((e: number, i: number) => {
        worst = Math.max(worst, Math.abs(e - own[0].world[i]) / (i >= 12 ? size : Math.max(1, Math.abs(e))));
      });
      const mesh = ours.meshes.find((m) => m.node === own[0].path);
      if (!mesh || meshes.length === 0) continue;
      const p = new three.Vector3();
      // Corner by corner: what has no normals has more vertices here, so that it can be flat.
      let corner = 0;
      for (const part of meshes) {
        const { index, attributes } = part.geometry;
        const count = index?.count ?? attributes.position.count;
        for (let i = 0; i < count; i++, corner++) {
          part.getVertexPosition(index ? index.getX(i) : i, p);
          p.applyMatrix4(part.matrixWorld);
          for (const [k, c] of [p.x, p.y, p.z].entries())
            worst = Math.max(worst, Math.abs(c - mesh.positions[3 * mesh.indices[corner] + k]) / size);
        }
      }
      expect(mesh.indices.length).toBe(corner);
      corners += corner;
    }
  }
  return { worst, corners };
}

/** The same numbers every time. */
function dice(seed: number) {
  return () => ((seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32) * 2 - 1;
}

/** A file with every kind of track: three joints, a skin, two targets, two materials. */
async function everything(file: string, interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE') {
  const random = dice(interpolation.length);
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: string, array: any) =>
    document
      .createAccessor()
      .setType(type as any)
      .setArray(array)
      .setBuffer(buffer);
  const numbers = (n: number, scale = 1) => Float32Array.from({ length: n }, () => random() * scale);
  const unit = (n: number) => {
    const q = numbers(4 * n);
    for (let i = 0; i < q.length; i += 4) {
      const length = Math.hypot(q[i], q[i + 1], q[i + 2], q[i + 3]);
      for (let k = 0; k < 4; k++) q[i + k] /= length;
    }
    return q;
  };
  const count = 90;
  const part = (material: string, name: string) => {
    const weights = Float32Array.from({ length: 4 * count }, () => Math.abs(random()));
    for (let v = 0; v < weights.length; v += 4) {
      const sum = weights[v] + weights[v + 1] + weights[v + 2] + weights[v + 3];
      for (let k = 0; k < 4; k++) weights[v + k] /= sum;
    }
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', numbers(3 * count)))
      .setAttribute(
        'JOINTS_0',
        accessor(
          'VEC4',
          Uint8Array.from({ length: 4 * count }, () => Math.floor((random() + 1) * 1.5)),
        ),
      )
      .setAttribute('WEIGHTS_0', accessor('VEC4', weights))
      .setIndices(
        accessor(
          'SCALAR',
          Uint16Array.from({ length: 120 }, () => Math.floor(((random() + 1) / 2) * count)),
        ),
      )
      .setMaterial(document.createMaterial(material).setBaseColorFactor([0.2, 0.4, 0.6, 1]));
    for (const target of ['smile', 'blink']) {
      primitive.addTarget(
        document.createPrimitiveTarget(target).setAttribute('POSITION', accessor('VEC3', numbers(3 * count))),
      );
    }
    return primitive.setName(name);
  };
  const mesh = document
    .createMesh('face')
    .addPrimitive(part('skin', 'a'))
    .addPrimitive(part('cloth', 'b'))
    .setWeights([0.25, 0]);
  mesh.setExtras({ targetNames: ['smile', 'blink'] });
  const joints = ['hip', 'spine', 'head'].map((name, i) =>
    document
      .createNode(name)
      .setTranslation([0, i > 0 ? 0.7 : 0.1, 0])
      .setRotation([...unit(1)] as any)
      .setScale([1, 1.2, 0.9]),
  );
  joints[0].addChild(joints[1]);
  joints[1].addChild(joints[2]);
  const skin = document
    .createSkin('skin')
    .setInverseBindMatrices(
      accessor(
        'MAT4',
        Float32Array.from(
          joints.flatMap(() => [
            ...new three.Matrix4().makeRotationX(random()).setPosition(random(), random(), random()).elements,
          ]),
        ),
      ),
    );
  joints.forEach((j) => skin.addJoint(j));
  const body = document.createNode('body').setMesh(mesh).setSkin(skin).setTranslation([3, 1, 2]);
  const stand = document
    .createNode('stand')
    .setMatrix([...new three.Matrix4().makeRotationZ(0.6).scale(new three.Vector3(2, 1, -1.5)).elements] as any);
  stand.addChild(joints[0]).addChild(body);
  document.createScene('scene').addChild(stand);
  const animation = document.createAnimation('dance');
  const keys = 5;
  const values = interpolation === 'CUBICSPLINE' ? 3 * keys : keys;
  const track = (node: any, path: string, type: string, output: Float32Array) => {
    const times = Float32Array.from({ length: keys }, (_, i) => 0.1 + i * 0.37 + 0.1 * random());
    const sampler = document
      .createAnimationSampler()
      .setInput(accessor('SCALAR', times))
      .setOutput(accessor(type, output))
      .setInterpolation(interpolation);
    animation.addSampler(sampler).addChannel(
      document
        .createAnimationChannel()
        .setTargetNode(node)
        .setTargetPath(path as any)
        .setSampler(sampler),
    );
  };
  // With tangents before and after each: the quaternions themselves have length 1, as the standard asks.
  const turns = () => {
    const q = unit(keys);
    return interpolation !== 'CUBICSPLINE'
      ? q
      : Float32Array.from({ length: 4 * values }, (_, i) =>
          Math.floor(i / 4) % 3 === 1 ? q[4 * Math.floor(i / 12) + (i % 4)] : random(),
        );
  };
  for (const joint of joints) {
    track(joint, 'rotation', 'VEC4', turns());
    track(joint, 'translation', 'VEC3', numbers(3 * values));
  }
  track(joints[1], 'scale', 'VEC3', numbers(3 * values));
  track(body, 'weights', 'SCALAR', numbers(2 * values));
  await new NodeIO().write(file, document);
}

/** One triangle as 16-bit numbers, moved by a sparse accessor: what exporters write to make files small. */
function quantized(file: string) {
  const positions = Int16Array.from([0, 0, 0, 0, 32767, 0, 0, 0, 0, 32767, 0, 0]);
  const bytes = new Uint8Array(24 + 8 + 4 + 12);
  bytes.set(new Uint8Array(positions.buffer), 0);
  bytes.set([0, 0, 1, 0, 2, 0], 24);
  bytes.set([1, 0, 0, 0], 32);
  bytes.set(new Uint8Array(Float32Array.from([0.5, 2, -1]).buffer), 36);
  const json = {
    asset: { version: '2.0' },
    extensionsUsed: ['KHR_mesh_quantization'],
    extensionsRequired: ['KHR_mesh_quantization'],
    scene: 0,
    scenes: [{ nodes: [0, 1] }],
    nodes: [
      { name: 'small', mesh: 0, scale: [3, 3, 3], translation: [1, 0, 0] },
      { name: 'sparse', mesh: 1 },
    ],
    meshes: [
      { primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] },
      { primitives: [{ attributes: { POSITION: 2 }, indices: 1 }] },
    ],
    accessors: [
      { bufferView: 0, componentType: 5122, normalized: true, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
      { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' },
      {
        componentType: 5126,
        count: 3,
        type: 'VEC3',
        min: [0, 0, -1],
        max: [0.5, 2, 0],
        sparse: { count: 1, indices: { bufferView: 2, componentType: 5123 }, values: { bufferView: 3 } },
      },
    ],
    bufferViews: [
      { buffer: 0, byteLength: 24, byteStride: 8, target: 34962 },
      { buffer: 0, byteOffset: 24, byteLength: 6, target: 34963 },
      { buffer: 0, byteOffset: 32, byteLength: 2 },
      { buffer: 0, byteOffset: 36, byteLength: 12 },
    ],
    buffers: [
      {
        byteLength: bytes.length,
        uri: `data:application/octet-stream;base64,${Buffer.from(bytes).toString('base64')}`,
      },
    ],
  };
  writeFileSync(file, JSON.stringify(json));
}

describe('glTF', () => {
  // Times between keys, on them, before the first and after the last.
  const times = [0, 0.1, 0.33, 0.5, 0.9, 1.21, 1.5, 3];

  for (const interpolation of ['LINEAR', 'STEP', 'CUBICSPLINE'] as const) {
    it(`stands and bends as in three.js with ${interpolation} tracks`, async () => {
      const file = join(folder, `${interpolation}.glb`);
      await everything(file, interpolation);
      const { worst, corners } = await compare(file, times);
      expect(corners).toBe(240 * times.length);
      expect(worst).toBeLessThan(1e-5);
    });
  }

  // Hands and controllers of the package @webxr-input-profiles/assets: skins, textures, odd names.
  for (const name of [
    'generic-hand/left.glb',
    'generic-hand/right.glb',
    'generic-trigger-squeeze-thumbstick/left.glb',
    'generic-touchpad/none.glb',
  ]) {
    it(`reads ${name} as three.js does`, async () => {
      const file = join(load.resolve('@webxr-input-profiles/assets/dist/profiles/profilesList.json'), '..', name);
      const { worst, corners } = await compare(file, [0]);
      expect(corners).toBeGreaterThan(50);
      expect(worst).toBeLessThan(1e-5);
    });
  }

  it('reads quantized and sparse meshes', async () => {
    const file = join(folder, 'quantized.gltf');
    quantized(file);
    const { worst, corners } = await compare(file, [0]);
    expect(corners).toBe(6);
    expect(worst).toBeLessThan(1e-5);
  });

  it('makes a shot of a file, whose meshes lie beside it as files that the validator of glTF finds no error in', async () => {
    const file = join(folder, 'shot.glb');
    await everything(file, 'CUBICSPLINE');
    const shot = join(folder, 'made.shot.json');
    const said = run('import', file, '--out', shot, '--fps', String(fps));
    expect(said).toContain('3 joints');
    expect(said).toContain('2 morph targets');
    const a = sample(file, 17.3);
    const b = sample(shot, 17.3);
    expect(b.nodes).toEqual(a.nodes);
    expect(b.meshes).toEqual(a.meshes);
    const json = JSON.parse(readFileSync(shot, 'utf8'));
    const asset = json.nodes.find((n: any) => n.kind === 'mesh').shape.asset;
    const validator = load('gltf-validator');
    const report = await validator.validateBytes(
      new Uint8Array(readFileSync(join(folder, 'made.assets', `${asset}.glb`))),
    );
    expect(report.issues.messages.filter((m: any) => m.severity === 0)).toEqual([]);
  });

  const exported = async (source: string, ...more: string[]) => {
    const target = join(folder, `out-${Math.random()}.glb`);
    const said = run('export', source, '--out', target, '--fps', String(fps), ...more);
    const report = await load('gltf-validator').validateBytes(new Uint8Array(readFileSync(target)));
    expect(report.issues.messages.filter((m: any) => m.severity === 0)).toEqual([]);
    return { target, said };
  };

  it('writes the pictures and materials that it has read, as @gltf-transform reads both', async () => {
    const file = join(
      load.resolve('@webxr-input-profiles/assets/dist/profiles/profilesList.json'),
      '..',
      'generic-trigger-squeeze-thumbstick/left.glb',
    );
    const { target } = await exported(file);
    const io = new NodeIO();
    const materialOf = async (path: string) => {
      const m = (await io.read(path)).getRoot().listMaterials()[0];
      const pictures = [m.getBaseColorTexture(), m.getMetallicRoughnessTexture(), m.getNormalTexture()];
      return {
        numbers: [...m.getBaseColorFactor(), m.getRoughnessFactor(), m.getMetallicFactor(), m.getNormalScale()],
        pictures: pictures.map((p: any) => (p ? createHash('sha256').update(p.getImage()).digest('hex') : null)),
        wraps: [m.getBaseColorTextureInfo()?.getWrapS(), m.getBaseColorTextureInfo()?.getWrapT()],
      };
    };
    const [before, after] = [await materialOf(file), await materialOf(target)];
    expect(before.pictures.filter((p) => p).length).toBeGreaterThan(1);
    expect(after.pictures).toEqual(before.pictures);
    expect(after.wraps).toEqual(before.wraps);
    after.numbers.forEach((n, i) => expect(n).toBeCloseTo(before.numbers[i], 5));
  });

  it('writes what it has read: keys as they are, at any time', async () => {
    for (const interpolation of ['LINEAR', 'STEP', 'CUBICSPLINE'] as const) {
      const file = join(folder, `again-${interpolation}.glb`);
      await everything(file, interpolation);
      const { target, said } = await exported(file);
      expect(said).toContain('8 tracks');
      expect(said).not.toContain('sampled');
      const { worst, corners } = await compare(target, times.slice(0, 6), file);
      expect(corners).toBe(240 * 6);
      expect(worst).toBeLessThan(1e-5);
    }
  });

  it('writes the gull of the demo, with its skin and its targets', async () => {
    const file = join(root, 'demo/gull.glb');
    const { target } = await exported(file);
    const { worst } = await compare(target, [0, 0.31, 1.5, 2.77], file);
    expect(worst).toBeLessThan(1e-5);
  });

  it('writes the demo shot, whose angles, pivots, deformers and lamps are in other forms there, sampled on every frame', async () => {
    const file = join(root, 'demo/lantern-quay.shot.json');
    const { target, said } = await exported(file);
    expect(said).toContain('sampled every frame');
    expect(said).toContain('morph targets now');
    // The demo has a rate of its own.
    const rate = JSON.parse(readFileSync(file, 'utf8')).rate.numerator / fps;
    const { worst, corners } = await compare(
      target,
      [0, 12, 33, 61, 119].map((f) => f / fps),
      file,
      rate,
    );
    expect(corners).toBeGreaterThan(1000);
    expect(worst).toBeLessThan(1e-5);
  });

  // An instance is a node with children of its own there, so everything is compared, whoever it belongs to.
  it.each(['quay-lamps', 'turntable'])('writes all that instances and repeaters draw in %s', async (name) => {
    const file = join(root, `demo/${name}.shot.json`);
    const { target } = await exported(file);
    const at = await openInThree(target);
    for (const frame of [0, 47, 100]) {
      const gltf = at(frame / fps);
      const [ours, theirs]: [number[][], number[][]] = [
        [[], [], []],
        [[], [], []],
      ];
      const rate = JSON.parse(readFileSync(file, 'utf8')).rate.numerator / fps;
      for (const mesh of sample(file, frame * rate).meshes)
        mesh.positions.forEach((v: number, i: number) => ours[i % 3].push(v));
      const point = new three.Vector3();
      gltf.scene.traverse((o: any) => {
        if (!o.isMesh || o.userData.hidden) return;
        for (let v = 0; v < o.geometry.attributes.position.count; v++) {
          o.getVertexPosition(v, point).applyMatrix4(o.matrixWorld);
          [point.x, point.y, point.z].forEach((c, i) => theirs[i].push(c));
        }
      });
      for (let axis = 0; axis < 3; axis++) {
        const [a, b] = [ours[axis], theirs[axis]].map((list) => list.sort((x, y) => x - y));
        expect(a.length).toBeGreaterThan(1000);
        if (name === 'turntable') expect(b.length).toBe(a.length);
        // What is hidden on a frame stands in the file all the same.
        else expect(b.length).toBeGreaterThanOrEqual(a.length);
        if (a.length === b.length) expect(Math.max(...a.map((v, i) => Math.abs(v - b[i])))).toBeLessThan(1e-3);
      }
    }
  });
});
