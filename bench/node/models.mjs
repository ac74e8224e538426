// Models: reading and writing against @gltf-transform/core, bending against three.js on the processor, and both in the browser.
// Usage: models.mjs FOLDER writes the files; models.mjs FOLDER measure does the rest.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const root = new URL('../..', import.meta.url).pathname;
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const { Document, NodeIO } = await import(load.resolve('@gltf-transform/core'));
const [, , folder, measure] = process.argv;
const file = (name) => join(folder, `${name}.glb`);
const print = (name, value) => console.log(JSON.stringify({ name, value }));
const median = (values) => values.sort((a, b) => a - b)[values.length >> 1];

let seed = 7;
const random = () => ((seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32) * 2 - 1;
const COUNT = 20_000;
const JOINTS = 60;
const TARGETS = 40;

/** A character of 20,000 vertices: carried by 60 joints, four a vertex, or with 40 targets of which five are at work. */
async function character(name, isSkin) {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type, array) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const floats = (length, of) => Float32Array.from({ length }, (_, i) => of(i));
  const primitive = document
    .createPrimitive()
    .setIndices(
      accessor(
        'SCALAR',
        Uint16Array.from({ length: 3 * 39_000 }, () => Math.floor(Math.abs(random()) * (COUNT - 1))),
      ),
    )
    .setAttribute(
      'POSITION',
      accessor(
        'VEC3',
        floats(3 * COUNT, (i) => (i % 3 === 1 ? (2 * i) / COUNT : 0.3 * random())),
      ),
    )
    .setAttribute(
      'NORMAL',
      accessor(
        'VEC3',
        floats(3 * COUNT, (i) => (i % 3 === 0 ? 1 : 0)),
      ),
    );
  const times = accessor(
    'SCALAR',
    floats(21, (i) => i / 10),
  );
  const animation = document.createAnimation('motion');
  const track = (node, path, type, output) => {
    const sampler = document
      .createAnimationSampler()
      .setInput(times)
      .setOutput(accessor(type, output))
      .setInterpolation('LINEAR');
    animation
      .addSampler(sampler)
      .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  };
  const mesh = document.createMesh(name).addPrimitive(primitive);
  const body = document.createNode(name).setMesh(mesh);
  const scene = document.createScene(name).addChild(body);
  if (isSkin) {
    const first = (i) => Math.min(JOINTS - 4, Math.floor((i / (4 * COUNT)) * JOINTS));
    primitive
      .setAttribute(
        'JOINTS_0',
        accessor(
          'VEC4',
          Uint8Array.from({ length: 4 * COUNT }, (_, i) => first(i) + (i % 4)),
        ),
      )
      .setAttribute(
        'WEIGHTS_0',
        accessor(
          'VEC4',
          floats(4 * COUNT, () => 0.25),
        ),
      );
    const skin = document.createSkin(name);
    let above = scene;
    for (let j = 0; j < JOINTS; j++) {
      const joint = document.createNode(`joint ${j}`).setTranslation([0, j ? 0.1 : 0, 0]);
      above.addChild(joint);
      skin.addJoint((above = joint));
      track(
        joint,
        'rotation',
        'VEC4',
        floats(84, (i) => (i % 4 === 3 ? 0.995 : i % 4 === 2 ? 0.1 * Math.sin(i / 4) : 0)),
      );
    }
    body.setSkin(skin);
  } else {
    for (let t = 0; t < TARGETS; t++)
      primitive.addTarget(
        document
          .createPrimitiveTarget(`target ${t}`)
          .setAttribute(
            'POSITION',
            accessor(
              'VEC3',
              floats(3 * COUNT, () => 0.1 * random()),
            ),
          )
          .setAttribute(
            'NORMAL',
            accessor(
              'VEC3',
              floats(3 * COUNT, () => 0.1 * random()),
            ),
          ),
      );
    mesh.setWeights(new Array(TARGETS).fill(0));
    track(
      body,
      'weights',
      'SCALAR',
      floats(21 * TARGETS, (i) => (i % TARGETS < 5 ? 0.5 + 0.4 * Math.sin(i / TARGETS + (i % TARGETS)) : 0)),
    );
  }
  await new NodeIO().write(file(name), document);
}

/** A wavy sheet of 500,000 triangles. */
async function sheet() {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type, array) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const n = 501;
  const positions = new Float32Array(3 * n * n);
  const normals = new Float32Array(3 * n * n);
  for (let i = 0; i < n * n; i++) {
    const [x, z] = [(i % n) / 100 - 2.5, Math.floor(i / n) / 100 - 2.5];
    positions.set([x, 0.2 * Math.sin(3 * x) * Math.cos(2 * z), z], 3 * i);
    normals.set([0, 1, 0], 3 * i);
  }
  const indices = new Uint32Array(6 * (n - 1) * (n - 1));
  for (let r = 0, at = 0; r < n - 1; r++)
    for (let c = 0; c < n - 1; c++, at += 6) {
      const a = r * n + c;
      indices.set([a, a + n, a + 1, a + 1, a + n, a + n + 1], at);
    }
  const primitive = document
    .createPrimitive()
    .setIndices(accessor('SCALAR', indices))
    .setAttribute('POSITION', accessor('VEC3', positions))
    .setAttribute('NORMAL', accessor('VEC3', normals));
  document
    .createScene('sheet')
    .addChild(document.createNode('sheet').setMesh(document.createMesh('sheet').addPrimitive(primitive)));
  await new NodeIO().write(file('sheet'), document);
}

async function inThree() {
  const three = await import(load.resolve('three').replace(/three\.cjs$/, 'three.module.js'));
  const { GLTFLoader } = await import(load.resolve('three/examples/jsm/loaders/GLTFLoader.js'));
  globalThis.self ??= globalThis;
  const bytes = readFileSync(file('skin'));
  const gltf = await new GLTFLoader().parseAsync(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length),
    '',
  );
  const mixer = new three.AnimationMixer(gltf.scene);
  mixer.clipAction(gltf.animations[0]).play();
  let mesh;
  gltf.scene.traverse((o) => o.isSkinnedMesh && (mesh = o));
  const p = new three.Vector3();
  const frames = [];
  for (let f = 0; f < 40; f++) {
    const start = performance.now();
    mixer.setTime(f / 24);
    gltf.scene.updateMatrixWorld(true);
    mesh.skeleton.update();
    for (let v = 0; v < COUNT; v++) mesh.getVertexPosition(v, p);
    frames.push(performance.now() - start);
  }
  print('three.js skin, ms a frame', median(frames.slice(10)));
}

async function transform() {
  for (const name of ['sheet', 'skin']) {
    const bytes = new Uint8Array(readFileSync(file(name)));
    const [reads, writes] = [[], []];
    for (let i = 0; i < 7; i++) {
      let start = performance.now();
      const document = await new NodeIO().readBinary(bytes);
      reads.push(performance.now() - start);
      start = performance.now();
      await new NodeIO().writeBinary(document);
      writes.push(performance.now() - start);
    }
    print(`@gltf-transform reads ${name}, ms`, median(reads.slice(2)));
    print(`@gltf-transform writes ${name}, ms`, median(writes.slice(2)));
  }
}

async function inBrowser() {
  const { chromium } = load('@playwright/test');
  const server = spawn(
    join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus'),
    ['serve', '--port', '5190', '--data', mkdtempSync(join(tmpdir(), 'bradymotus-models-'))],
    { env: { ...process.env, BRADYMOTUS_HOME: root } },
  );
  await new Promise((done) => server.stdout.on('data', (d) => String(d).includes('ready') && done()));
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const made = await page.request.post('http://127.0.0.1:5190/api/shots', { data: { name: 'Models' } });
    await page.goto(`http://127.0.0.1:5190/#${(await made.json()).id}`);
    await page.waitForFunction(() => window.bradymotus?.ready && window.bradymotusStage?.drawn > 0, null, {
      timeout: 120_000,
    });
    // Dropped into an open shot: from the hand that lets go to a picture with all of it.
    await page.evaluate(() => {
      const input = document.createElement('input');
      input.type = 'file';
      input.id = 'bench-file';
      document.body.append(input);
    });
    await page.locator('#bench-file').setInputFiles(file('sheet'));
    const took = await page.evaluate(async () => {
      const files = new DataTransfer();
      files.items.add(document.querySelector('#bench-file').files[0]);
      const start = performance.now();
      const drop = new DragEvent('drop', { dataTransfer: files, bubbles: true, cancelable: true });
      document.querySelector('canvas').dispatchEvent(drop);
      const sheet = () => window.bradymotus.shot.scene.nodes.find((n) => n.name === 'sheet');
      while (!sheet() || window.bradymotus.shot.shown.indices(sheet().index).length < 1_000_000)
        await new Promise((done) => setTimeout(done, 20));
      // The stage draws in the next picture; the one after it comes when that is done.
      for (let i = 0; i < 3; i++) await new Promise((done) => requestAnimationFrame(done));
      return performance.now() - start;
    });
    print('500,000 triangles, from dropped to drawn, ms', took);
    for (const name of ['skin', 'morph']) {
      const shot = await page.request.post('http://127.0.0.1:5190/api/import', {
        multipart: { files: { name: `${name}.glb`, mimeType: 'model/gltf-binary', buffer: readFileSync(file(name)) } },
      });
      const frames = await page.evaluate(
        async (id) => {
          const { bradymotus } = window;
          await bradymotus.open(id);
          const engine = bradymotus.shot.engine;
          while (engine.missingMeshes().length > 0) await new Promise((done) => setTimeout(done, 50));
          const took = [];
          for (let i = 0; i < 400; i++) {
            const start = performance.now();
            engine.bridge.Evaluate((i % 40) + 0.5, false);
            took.push(performance.now() - start);
          }
          return took.slice(200);
        },
        (await shot.json()).shot.id,
      );
      print(`${name} in the browser, ms a frame`, median(frames));
    }
    // 1,000 instances of 1,000 triangles.
    const many = await page.request.post('http://127.0.0.1:5190/api/shots', { data: { name: 'Many' } });
    const { calls, moved } = await page.evaluate(
      async (id) => {
        const { bradymotus, bradymotusStage: stage } = window;
        await bradymotus.open(id);
        while (!bradymotus.shot.engine || bradymotus.shot.scene.nodes.length === 0)
          await new Promise((done) => setTimeout(done, 50));
        const shape = { kind: 'sphere', radius: 0.1, segments: 24, rings: 22 };
        const nodes = [{ kind: 'mesh', id: 'one', name: 'One', shape }];
        for (let i = 0; i < 1000; i++) {
          const channels = {
            'transform.translate.x': { value: (i % 32) * 0.3 - 5 },
            'transform.translate.z': { value: Math.floor(i / 32) * 0.3 - 5 },
          };
          nodes.push({ kind: 'instance', id: `i${i}`, name: `I${i}`, of: 'one', channels });
        }
        bradymotus.shot.commit({ kind: 'addNodes', nodes });
        for (let i = 0; i < 5; i++) await new Promise((done) => requestAnimationFrame(done));
        let calls = 0;
        stage.mirror.copies.object.traverse((o) => (calls += o.isInstancedMesh ? 1 : 0));
        const moved = [];
        for (let i = 0; i < 40; i++) {
          const start = performance.now();
          bradymotus.shot.pose([{ address: 'one/transform.rotate.y', value: i }], false);
          stage.update();
          moved.push(performance.now() - start);
        }
        return { calls, moved: moved.slice(10) };
      },
      (await many.json()).id,
    );
    print('1,000 instances of 1,000 triangles, calls to draw them', calls);
    print('1,000 instances of 1,000 triangles, what they are of moved, ms', median(moved));
  } finally {
    await browser.close();
    server.kill();
  }
}

if (measure) {
  await transform();
  await inThree();
  await inBrowser();
} else {
  await character('skin', true);
  await character('morph', false);
  await sheet();
}
