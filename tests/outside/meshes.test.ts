// OBJ, STL and PLY against the loaders of three.js: the same triangles, corner by corner.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';

// The packages live beside the interface.
const load = createRequire(new URL('../../web/package.json', import.meta.url));
const loader = async (name: string) =>
  new (await import(load.resolve(`three/examples/jsm/loaders/${name}.js`)))[name]() as { parse(data: unknown): any };
Object.assign(globalThis, { self: globalThis });

const root = new URL('../..', import.meta.url).pathname;
const program = join(root, 'src/Bradymotus.Cli/bin/Release/net10.0/bradymotus');
const folder = mkdtempSync(join(tmpdir(), 'bradymotus-meshes-'));
const run = (...args: string[]) => execFileSync(program, args, { maxBuffer: 1 << 28 }).toString();

/** The triangles of a file as we read it, each as nine rounded numbers, in an order of their own. */
function ours(file: string): string[] {
  const { meshes } = JSON.parse(run('sample', file, '--frame', '0', '--mesh')) as {
    meshes: { positions: number[]; indices: number[] }[];
  };
  return meshes
    .flatMap(({ positions, indices }) =>
      triangles((i) => positions.slice(3 * indices[i], 3 * indices[i] + 3), indices.length),
    )
    .sort();
}

function triangles(at: (i: number) => number[], count: number): string[] {
  const out: string[] = [];
  for (let i = 0; i < count; i += 3)
    out.push(
      [0, 1, 2]
        .map((k) =>
          at(i + k)
            .map((x) => x.toFixed(4))
            .join(' '),
        )
        .join(', '),
    );
  return out;
}

/** Those of a geometry of three.js. */
function theirs(geometry: any): string[] {
  const p = geometry.attributes.position;
  const index = geometry.index;
  const at = (i: number) => {
    const v = index ? index.getX(i) : i;
    return [p.getX(v), p.getY(v), p.getZ(v)];
  };
  return triangles(at, index ? index.count : p.count);
}

// A sheet of quads, wavy, its corners to four digits.
const n = 9;
const corners = Array.from({ length: n * n }, (_, i) => [
  (i % n) / 4,
  Number(Math.sin(i * 1.7).toFixed(3)),
  Math.floor(i / n) / 3,
]);
const quads = Array.from({ length: (n - 1) * (n - 1) }, (_, i) => {
  const a = Math.floor(i / (n - 1)) * n + (i % (n - 1));
  return [a, a + n, a + n + 1, a + 1];
});

describe('meshes of other programs', () => {
  it('reads OBJ with polygons, indices that count back, objects and materials', async () => {
    const text = [
      'mtllib sheet.mtl',
      'o First part',
      ...corners.map((c) => `v ${c.join(' ')}`),
      'vt 0 0',
      'vn 0 1 0',
      'usemtl Red',
      ...quads.slice(0, 20).map((q) => `f ${q.map((v) => `${v + 1}/1/1`).join(' ')}`),
      'usemtl Blue',
      ...quads.slice(20, 40).map((q) => `f ${q.map((v) => `${v + 1}//1`).join(' ')}`),
      'o Second part',
      // From the newest back; with a fifth corner on the edge.
      ...quads.slice(40).map((q) => `f ${[...q, q[3]].map((v) => v - corners.length).join(' ')}`),
    ].join('\n');
    const file = join(folder, 'sheet.obj');
    writeFileSync(file, text);
    writeFileSync(
      join(folder, 'sheet.mtl'),
      'newmtl Red\nKd 0.8 0.1 0.05\nNs 100\nnewmtl Blue\nKd 0.1 0.1 0.7\nd 0.5\n',
    );
    const group = (await loader('OBJLoader')).parse(text);
    const expected: string[] = [];
    group.traverse((o: any) => o.isMesh && expected.push(...theirs(o.geometry)));
    expect(ours(file)).toEqual(expected.sort());
    const shot = join(folder, 'sheet.shot.json');
    expect(run('import', file, '--out', shot)).toContain('2 meshes');
    const { nodes, materials } = JSON.parse(readFileSync(shot, 'utf8'));
    expect(nodes.map((o: any) => o.name)).toEqual(['First part', 'Second part']);
    expect(nodes[0].partMaterials).toEqual(['material-0', 'material-1']);
    expect(materials[1].channels['look.opacity'].value).toBe(0.5);
  });

  it('reads STL, as text and binary', async () => {
    const list = quads.flatMap(([a, b, c, d]) => [
      [a, b, c],
      [a, c, d],
    ]);
    const text = `solid sheet\n${list.map((t) => `facet normal 0 1 0\nouter loop\n${t.map((v) => `vertex ${corners[v].join(' ')}`).join('\n')}\nendloop\nendfacet`).join('\n')}\nendsolid sheet\n`;
    const binary = Buffer.alloc(84 + 50 * list.length);
    binary.write('solid, though it is binary');
    binary.writeUInt32LE(list.length, 80);
    list.forEach((t, i) =>
      t.forEach((v, k) => corners[v].forEach((x, c) => binary.writeFloatLE(x, 84 + 50 * i + 12 + 12 * k + 4 * c))),
    );
    for (const [name, data] of [
      ['text', text],
      ['binary', binary],
    ] as const) {
      const file = join(folder, `${name}.stl`);
      writeFileSync(file, data);
      const geometry = (await loader('STLLoader')).parse(
        typeof data === 'string' ? data : data.buffer.slice(data.byteOffset, data.byteOffset + data.length),
      );
      expect(ours(file)).toEqual(theirs(geometry).sort());
    }
  });

  it('reads PLY, as text and binary of both orders of bytes', async () => {
    for (const format of ['ascii', 'binary_little_endian', 'binary_big_endian']) {
      const header = `ply\nformat ${format} 1.0\ncomment a sheet\nelement vertex ${corners.length}\nproperty float x\nproperty float y\nproperty float z\nproperty uchar quality\nelement face ${quads.length}\nproperty list uchar int vertex_indices\nend_header\n`;
      let body: Buffer;
      if (format === 'ascii')
        body = Buffer.from(
          [...corners.map((c) => `${c.join(' ')} 7`), ...quads.map((q) => `4 ${q.join(' ')}`)].join('\n') + '\n',
        );
      else {
        const little = format.includes('little');
        body = Buffer.alloc(13 * corners.length + 17 * quads.length);
        let at = 0;
        for (const c of corners) {
          for (const x of c) at = little ? body.writeFloatLE(x, at) : body.writeFloatBE(x, at);
          at = body.writeUInt8(7, at);
        }
        for (const q of quads) {
          at = body.writeUInt8(4, at);
          for (const v of q) at = little ? body.writeInt32LE(v, at) : body.writeInt32BE(v, at);
        }
      }
      const data = Buffer.concat([Buffer.from(header), body]);
      const file = join(folder, `${format}.ply`);
      writeFileSync(file, data);
      const geometry = (await loader('PLYLoader')).parse(
        data.buffer.slice(data.byteOffset, data.byteOffset + data.length),
      );
      // A quad may be cut along either of its diagonals; the corners of all are the same.
      const points = (list: string[]) => list.flatMap((t) => t.split(', ')).sort();
      expect(ours(file).length).toBe(2 * quads.length);
      expect([...new Set(points(ours(file)))]).toEqual([...new Set(points(theirs(geometry)))]);
    }
  });
});
