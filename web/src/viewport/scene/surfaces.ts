// A material of the shot as three.js draws it: its layers, and maps that are laid on by the graphics card as the renderer lays them.
import * as THREE from 'three';
import type { Film, Picture, SurfaceMap } from '../../engine/engine';
import { patternCall, patternCode, patternNumbers, projections } from './patterns';

/** A value of the material on the shown frame. */
export type Read = (path: string) => number;

interface MapUniforms {
  /** Scale and offset. */
  place: { value: THREE.Vector4 };
  /** Cosine and sine of the turn, strength. */
  turn: { value: THREE.Vector3 };
  numbers: { value: THREE.Vector4 };
  first: { value: THREE.Vector3 };
  second: { value: THREE.Vector3 };
  picture: { value: THREE.Texture | null };
  reel?: Reel;
}

const isColour = (slot: string) => slot === 'color' || slot === 'emission';
const WRAPS = { repeat: THREE.RepeatWrapping, clamp: THREE.ClampToEdgeWrapping, mirror: THREE.MirroredRepeatWrapping };

/** A film, of which one frame is shown. */
class Reel {
  readonly texture: THREE.Texture;
  private readonly video = document.createElement('video');
  private wanted = -1;

  constructor(
    private readonly film: Film,
    private readonly come: () => void,
  ) {
    Object.assign(this.video, { muted: true, playsInline: true, preload: 'auto', src: `/api/assets/${film.asset}` });
    this.texture = new THREE.VideoTexture(this.video);
    this.texture.flipY = false;
    this.texture.colorSpace = THREE.SRGBColorSpace;
    this.texture.generateMipmaps = false;
    this.texture.minFilter = THREE.LinearFilter;
    const show = () => {
      if (this.video.readyState < 2) return;
      this.texture.needsUpdate = true;
      this.come();
    };
    // When a frame has been reached it is not always there to be drawn yet: the browser says when.
    const shown = () => {
      show();
      this.video.requestVideoFrameCallback(shown);
    };
    this.video.requestVideoFrameCallback(shown);
    this.video.addEventListener('seeked', show);
    this.video.addEventListener('loadeddata', show);
  }

  /** Goes to the frame of a time, the first or the last beyond its ends. */
  at(seconds: number) {
    const { framesPerSecond: rate, seconds: length } = this.film;
    const last = Math.max(0, Math.round(length * rate) - 1);
    const frame = Math.min(last, Math.max(0, Math.floor(seconds * rate + 1e-6)));
    if (frame === this.wanted) return;
    this.wanted = frame;
    // The middle of the frame, so that no rounding meets its neighbour.
    this.video.currentTime = (frame + 0.5) / rate;
  }

  dispose() {
    this.video.removeAttribute('src');
    this.video.load();
    this.texture.dispose();
  }
}

/** Pictures, each once for what its numbers mean; kept as long as a material shows it. */
export class Pictures {
  private readonly held = new Map<string, { texture: THREE.Texture; users: number }>();
  private readonly loader = new THREE.TextureLoader();

  /** @param come something can be drawn now that could not before */
  constructor(readonly come: () => void) {}

  private key = (p: Picture, colour: boolean) => `${p.asset} ${colour} ${p.wrapU ?? ''} ${p.wrapV ?? ''}`;

  take(p: Picture, colour: boolean): THREE.Texture {
    const key = this.key(p, colour);
    let held = this.held.get(key);
    if (!held) {
      const texture = this.loader.load(`/api/assets/${p.asset}`, this.come);
      texture.flipY = false;
      texture.colorSpace = colour ? THREE.SRGBColorSpace : THREE.NoColorSpace;
      texture.wrapS = WRAPS[p.wrapU ?? 'repeat'];
      texture.wrapT = WRAPS[p.wrapV ?? 'repeat'];
      texture.anisotropy = 4;
      this.held.set(key, (held = { texture, users: 0 }));
    }
    held.users++;
    return held.texture;
  }

  leave(p: Picture, colour: boolean) {
    const key = this.key(p, colour);
    const held = this.held.get(key);
    if (!held || --held.users > 0) return;
    held.texture.dispose();
    this.held.delete(key);
  }
}

export class StageSurface {
  readonly material: THREE.MeshStandardMaterial;
  private maps: SurfaceMap[] = [];
  private signature = '';
  /** What has been painted, and the values that it was painted by. */
  private written = '[]';
  private painted = new Float64Array();
  private uniforms: MapUniforms[] = [];
  private readonly flat = { value: 0 };
  /** A mesh of it has colours of its vertices. */
  private tinted = false;
  /** Its meshes need places of what is not bent. */
  needsRest = false;

  /** @param lean without what costs much where no graphics card is: coat, sheen, light that is bent */
  constructor(
    private readonly pictures: Pictures,
    lean: boolean,
  ) {
    this.material = lean ? new THREE.MeshStandardMaterial() : new THREE.MeshPhysicalMaterial();
    this.material.onBeforeCompile = (shader) => this.compile(shader);
    this.material.customProgramCacheKey = () => this.signature;
  }

  /** Takes over other maps. */
  setMaps(maps: SurfaceMap[]) {
    // Every other structure of the shot brings lists of its own, mostly with the same in them.
    const written = JSON.stringify(maps);
    if (written === this.written) return;
    this.written = written;
    this.painted = new Float64Array();
    const before = this.maps;
    this.maps = maps;
    for (const u of this.uniforms) u.reel?.dispose();
    this.uniforms = maps.map(({ slot, source }) => {
      const reel = source.kind === 'film' ? new Reel(source, this.pictures.come) : undefined;
      return {
        place: { value: new THREE.Vector4(1, 1, 0, 0) },
        turn: { value: new THREE.Vector3(1, 0, 1) },
        numbers: { value: new THREE.Vector4() },
        first: { value: new THREE.Vector3(1, 1, 1) },
        second: { value: new THREE.Vector3() },
        picture: {
          value: source.kind === 'picture' ? this.pictures.take(source, isColour(slot)) : (reel?.texture ?? null),
        },
        reel,
      };
    });
    for (const { slot, source } of before) if (source.kind === 'picture') this.pictures.leave(source, isColour(slot));
    this.needsRest = maps.some((m) => m.projection !== 'coordinates');
    this.sign();
  }

  /** A mesh of it has colours of its vertices. */
  tint() {
    if (this.tinted) return;
    this.tinted = true;
    this.painted = new Float64Array();
    this.sign();
  }

  private sign() {
    this.signature =
      this.maps
        .map((m) => `${m.slot} ${m.source.kind} ${(m.source as Partial<Picture>).part ?? ''} ${m.projection}`)
        .join('|') + (this.tinted ? '|tint' : '');
    this.material.needsUpdate = true;
  }

  /** Whether its values among those of a frame are others than it was painted by; they count as painted then. */
  isOld(values: Float64Array, first: number, count: number): boolean {
    const { painted } = this;
    let same = painted.length === count;
    for (let i = 0; same && i < count; i++) same = painted[i] === values[first + i];
    if (!same) this.painted = values.slice(first, first + count);
    return !same;
  }

  /**
   * Takes its films to a frame.
   * @param rate frames a second of the shot
   */
  go(read: Read, frame: number, rate: number) {
    for (let i = 0; i < this.uniforms.length; i++)
      this.uniforms[i].reel?.at((frame - read(`map.${this.maps[i].slot}.start`)) / rate);
  }

  /** Brings everything to what a frame has. */
  paint(read: Read) {
    const m = this.material;
    const colour = (path: string, into: THREE.Color) =>
      into.setRGB(Math.max(0, read(`${path}.r`)), Math.max(0, read(`${path}.g`)), Math.max(0, read(`${path}.b`)));
    colour('look.color', m.color);
    m.roughness = Math.max(0.05, read('look.roughness'));
    m.metalness = read('look.metallic');
    colour('look.emissionColor', m.emissive);
    m.emissiveIntensity = Math.max(0, read('look.emission'));
    const glass = Math.min(1, Math.max(0, read('look.glass')));
    let opacity = read('look.opacity');
    if (m instanceof THREE.MeshPhysicalMaterial) {
      m.ior = Math.max(1, read('look.ior'));
      m.transmission = glass;
      m.thickness = read('look.thin') >= 0.5 ? 0 : 0.3;
      m.clearcoat = read('look.coat');
      m.clearcoatRoughness = Math.max(0.05, read('look.coatRoughness'));
      m.sheen = read('look.sheen');
      m.sheenRoughness = Math.max(0.07, read('look.sheenRoughness'));
      colour('look.sheenColor', m.sheenColor);
    } else opacity *= 1 - 0.75 * glass;
    const transparent = opacity < 1 || this.tinted || this.maps.some((x) => x.slot === 'opacity');
    if (m.transparent !== transparent) {
      m.transparent = transparent;
      m.needsUpdate = true;
    }
    m.opacity = opacity;
    this.maps.forEach((map, i) => this.place(map, this.uniforms[i], read));
  }

  private place({ slot, source }: SurfaceMap, u: MapUniforms, read: Read) {
    const of = (name: string) => read(`map.${slot}.${name}`);
    u.place.value.set(of('scale.x'), of('scale.y'), of('offset.x'), of('offset.y'));
    const turn = (of('rotate') * Math.PI) / 180;
    u.turn.value.set(Math.cos(turn), Math.sin(turn), of('strength'));
    if (source.kind === 'picture' || source.kind === 'film') return;
    u.numbers.value.fromArray([...patternNumbers[source.kind].map(of), 0, 0, 0, 0]);
    for (const name of ['first', 'second'] as const)
      if (isColour(slot)) u[name].value.set(of(`${name}.r`), of(`${name}.g`), of(`${name}.b`));
      else u[name].value.setScalar(of(name));
  }

  /** In its colours alone. */
  set isFlat(value: boolean) {
    this.flat.value = value ? 1 : 0;
  }

  dispose() {
    this.setMaps([]);
    this.material.dispose();
  }

  private compile(shader: THREE.WebGLProgramParametersWithUniforms) {
    if (this.signature === '') return;
    shader.uniforms.mapFlat = this.flat;
    this.uniforms.forEach((u, i) => {
      for (const [name, uniform] of Object.entries(u))
        if (name !== 'reel') shader.uniforms[`map_${name}_${i}`] = uniform;
    });
    const needsPoint = this.maps.length > 0;
    const varyings = `
      ${needsPoint ? 'varying vec3 vMapPoint; varying vec2 vMapUv;' : ''}
      ${this.tinted ? 'varying vec4 vTinge;' : ''}`;
    shader.vertexShader =
      `
      ${needsPoint ? 'attribute vec4 rest;' : ''}
      ${this.tinted ? 'attribute vec4 tinge;' : ''}
      ${varyings}` +
      shader.vertexShader.replace(
        '#include <begin_vertex>',
        // What a geometry does not have reads 0, 0, 0, 1.
        `#include <begin_vertex>
        ${needsPoint ? 'vMapPoint = rest.w == 0.0 ? rest.xyz : position; vMapUv = uv;' : ''}
        ${this.tinted ? 'vTinge = vec4( 1.0 - tinge.rgb, tinge.a );' : ''}`,
      );
    const after = (chunk: string, code: string) => {
      if (code)
        shader.fragmentShader = shader.fragmentShader.replace(`#include <${chunk}>`, `#include <${chunk}>\n${code}`);
    };
    const has = (slot: string) => this.maps.some((m) => m.slot === slot);
    shader.fragmentShader = shader.fragmentShader.replace(
      '#include <common>',
      `#include <common>
      ${varyings}
      uniform float mapFlat;
      ${needsPoint ? 'vec3 mapPoint; vec3 mapSide;' : ''}
      ${patternCode(this.maps.map((m) => m.source.kind).filter((k) => k !== 'picture' && k !== 'film'))}
      ${this.maps.map((m, i) => this.functions(m, i)).join('\n')}`,
    );
    after(
      'map_fragment',
      `
      ${
        needsPoint
          ? `mapPoint = vMapPoint;
      // Which side a triangle faces, at rest.
      vec3 mapFace = cross( dFdx( vMapPoint ), dFdy( vMapPoint ) ) * ( gl_FrontFacing ? 1.0 : -1.0 );
      vec3 mapSize = abs( mapFace );
      mapSide = mapSize.x >= mapSize.y && mapSize.x >= mapSize.z ? vec3( sign( mapFace.x ), 0.0, 0.0 )
        : mapSize.y >= mapSize.z ? vec3( 0.0, sign( mapFace.y ), 0.0 ) : vec3( 0.0, 0.0, sign( mapFace.z ) );`
          : ''
      }
      ${this.tinted ? 'diffuseColor *= vTinge;' : ''}
      ${has('color') ? 'diffuseColor.rgb *= map_color();' : ''}
      ${has('opacity') ? 'diffuseColor.a *= map_opacity();' : ''}`,
    );
    after('roughnessmap_fragment', has('roughness') ? 'roughnessFactor *= map_roughness();' : '');
    after('metalnessmap_fragment', has('metallic') ? 'metalnessFactor *= map_metallic();' : '');
    const glow = has('emission') ? 'map_emission()' : 'vec3( 1.0 )';
    after(
      'emissivemap_fragment',
      `totalEmissiveRadiance *= mapFlat > 0.5 ? ${has('color') ? 'map_color()' : 'vec3( 1.0 )'} : ${glow};`,
    );
    after(
      'normal_fragment_maps',
      `${has('normal') ? 'normal = map_normal( normal );' : ''}
      ${has('bump') ? 'normal = map_bump( normal );' : ''}`,
    );
  }

  /** What a map says at the point: map_SLOT(). */
  private functions({ slot, source, projection }: SurfaceMap, i: number): string {
    const isPicture = source.kind === 'picture' || source.kind === 'film';
    const seam = projection === 'cylindrical' || projection === 'spherical';
    const part = source.kind === 'picture' ? (source.part ?? 'all') : 'all';
    const swizzle = { all: '', red: 'r', green: 'g', blue: 'b', alpha: 'a' }[part];
    const look = seam
      ? // Over the seam the slope of the place is that of the other side.
        `vec2 a = dFdx( p.xy ); vec2 b = dFdy( p.xy ); a.x -= round( a.x ); b.x -= round( b.x );
      vec4 c = textureGrad( map_picture_${i}, p.xy, a, b );`
      : `vec4 c = texture( map_picture_${i}, p.xy );`;
    const head = `
    uniform vec4 map_place_${i}; uniform vec3 map_turn_${i}; uniform vec4 map_numbers_${i};
    uniform vec3 map_first_${i}; uniform vec3 map_second_${i}; uniform sampler2D map_picture_${i};
    vec3 mapPlace_${i}() {
      vec3 p = ${projections[projection]};
      vec2 s = p.xy * map_place_${i}.xy;
      return vec3( map_turn_${i}.x * s.x + map_turn_${i}.y * s.y + map_place_${i}.z,
        -map_turn_${i}.y * s.x + map_turn_${i}.x * s.y + map_place_${i}.w, p.z * map_place_${i}.x );
    }
    vec3 mapRaw_${i}( vec3 p ) {
      ${
        isPicture
          ? `${look} ${source.kind === 'film' ? 'c = sRGBTransferEOTF( c );' : ''} return ${swizzle ? `vec3( c.${swizzle} )` : isColour(slot) ? 'c.rgb' : 'vec3( dot( c.rgb, vec3( 0.2126, 0.7152, 0.0722 ) ) )'};`
          : `vec2 t = ${patternCall(source.kind)}( p, map_numbers_${i} ); return mix( map_first_${i} * t.y, map_second_${i}, t.x );`
      }
    }`;
    if (isColour(slot))
      return `${head}
    vec3 map_${slot}() { return max( vec3( 0.0 ), mix( vec3( 1.0 ), mapRaw_${i}( mapPlace_${i}() ), clamp( map_turn_${i}.z, 0.0, 1.0 ) ) ); }`;
    if (slot === 'bump')
      return `${head}
    // M. Mikkelsen, "Bump mapping unparametrized surfaces on the GPU", 2010.
    vec3 map_bump( vec3 n ) {
      vec3 p = mapPlace_${i}();
      float h = mapRaw_${i}( p ).x;
      vec2 slope = map_turn_${i}.z * vec2( mapRaw_${i}( p + dFdx( p ) ).x - h, mapRaw_${i}( p + dFdy( p ) ).x - h );
      vec3 x = dFdx( -vViewPosition ); vec3 y = dFdy( -vViewPosition );
      vec3 r1 = cross( y, n ); vec3 r2 = cross( n, x );
      float d = dot( x, r1 ) * ( gl_FrontFacing ? 1.0 : -1.0 );
      return normalize( abs( d ) * n - sign( d ) * ( slope.x * r1 + slope.y * r2 ) );
    }`;
    if (slot === 'normal')
      return `${head}
    vec3 map_normal( vec3 n ) {
      vec3 p = mapPlace_${i}();
      vec3 x = dFdx( -vViewPosition ); vec3 y = dFdy( -vViewPosition );
      vec2 a = dFdx( p.xy ); vec2 b = dFdy( p.xy );
      float d = a.x * b.y - b.x * a.y;
      vec3 right = ( x * b.y - y * a.y ) / d; vec3 up = ( x * b.x - y * a.x ) / d;
      right -= n * dot( n, right ); up -= n * dot( n, up );
      vec3 c = 2.0 * texture( map_picture_${i}, p.xy ).xyz - 1.0;
      return abs( d ) < 1e-12 ? n : normalize( normalize( right ) * c.x * map_turn_${i}.z + normalize( up ) * c.y * map_turn_${i}.z + n * c.z );
    }`;
    return `${head}
    float map_${slot}() { return mix( 1.0, clamp( mapRaw_${i}( mapPlace_${i}() ).x, 0.0, 1.0 ), clamp( map_turn_${i}.z, 0.0, 1.0 ) ); }`;
  }
}
