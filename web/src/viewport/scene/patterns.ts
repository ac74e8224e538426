// Patterns and projections as the renderer has them (Scene/Maps in Bradymotus.Core), for the graphics card.

/** Noise, and what patterns share. */
const NOISE = `
uvec3 mapPcg( uvec3 v ) {
  v = v * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return v;
}
float mapHash( ivec3 p ) { return float( mapPcg( uvec3( p ) ).x ) / 4294967296.0; }
float mapCorner( ivec3 at, vec3 f, ivec3 c, int seed ) {
  uvec3 h = mapPcg( uvec3( at + c + ivec3( 0, 0, seed * 1013 ) ) );
  return dot( vec3( h ) / 2147483648.0 - 1.0, f - vec3( c ) );
}
float mapNoise( vec3 p, int seed ) {
  vec3 whole = floor( p );
  vec3 f = p - whole;
  ivec3 at = ivec3( clamp( whole, -1e9, 1e9 ) );
  vec3 u = f * f * f * ( f * ( f * 6.0 - 15.0 ) + 10.0 );
  vec4 near = vec4( mapCorner( at, f, ivec3( 0, 0, 0 ), seed ), mapCorner( at, f, ivec3( 1, 0, 0 ), seed ),
    mapCorner( at, f, ivec3( 0, 1, 0 ), seed ), mapCorner( at, f, ivec3( 1, 1, 0 ), seed ) );
  vec4 far = vec4( mapCorner( at, f, ivec3( 0, 0, 1 ), seed ), mapCorner( at, f, ivec3( 1, 0, 1 ), seed ),
    mapCorner( at, f, ivec3( 0, 1, 1 ), seed ), mapCorner( at, f, ivec3( 1, 1, 1 ), seed ) );
  vec4 both = mix( near, far, u.z );
  return mix( mix( both.x, both.y, u.x ), mix( both.z, both.w, u.x ), u.y );
}
float mapSum( vec3 p, int octaves, int seed ) {
  float sum = 0.0; float weight = 1.0; float all = 0.0;
  for ( int o = 0; o < 8; o ++ ) {
    if ( o >= octaves ) break;
    sum += weight * mapNoise( p, seed + 31 * o );
    all += weight; weight *= 0.5; p *= 2.0;
  }
  return sum / all;
}`;

/** Each gives how much there is of the second, and a factor on the first; v holds its numbers. */
const PATTERNS: Record<string, string> = {
  checks: `
vec2 mapChecks( vec3 p, vec4 v ) {
  vec3 c = floor( p * 2.0 + 1e-4 );
  return vec2( abs( mod( c.x + c.y + c.z, 2.0 ) ) >= 0.5 ? 1.0 : 0.0, 1.0 );
}`,
  bricks: `
vec2 mapBricks( vec3 p, vec4 v ) {
  float ratio = max( 0.2, v.y );
  float y = p.y * 4.0;
  float row = floor( y );
  // As the remainder of a division has it in C#: with the sign of the row.
  float x = p.x * 4.0 / ratio + ( row - 2.0 * trunc( row / 2.0 ) ) * v.z;
  float column = floor( x );
  float fx = ( x - column ) * ratio; float fy = y - row;
  float edge = min( min( fx, ratio - fx ), min( fy, 1.0 - fy ) );
  float shade = 1.0 - v.w * mapHash( ivec3( int( column ), int( row ), 7 ) );
  return vec2( 1.0 - smoothstep( v.x * 0.4, v.x * 0.6 + 1e-4, edge ), shade );
}`,
  wood: `
vec2 mapWood( vec3 p, vec4 v ) {
  int seed = int( v.w );
  float wide = mapSum( vec3( p.x * 1.5, p.y * 0.4, p.z * 1.5 ), 3, seed );
  float ring = ( length( p.xz ) + v.y * 0.25 * wide ) * v.x;
  float t = ring - floor( ring );
  float second = smoothstep( 0.1, 0.85, t ) * ( 1.0 - smoothstep( 0.92, 1.0, t ) );
  float grain = mapSum( vec3( p.x * 60.0, p.y * 2.0, p.z * 60.0 ), 2, seed + 1 );
  return vec2( second, 1.0 - v.z * ( 0.5 + grain ) * 0.5 );
}`,
  noise: `
vec2 mapClouds( vec3 p, vec4 v ) {
  float n = 0.5 + mapSum( p * v.x, int( v.y ), int( v.w ) );
  float h = 0.5 * ( 1.0 - 0.98 * v.z );
  return vec2( smoothstep( 0.5 - h, 0.5 + h, n ), 1.0 );
}`,
};

const CALLS: Record<string, string> = { checks: 'mapChecks', bricks: 'mapBricks', wood: 'mapWood', noise: 'mapClouds' };

/** The numbers of a pattern, by name, in the order of the components of v. */
export const patternNumbers: Record<string, string[]> = {
  checks: [],
  bricks: ['mortar', 'ratio', 'shift', 'vary'],
  wood: ['rings', 'disturb', 'grain', 'seed'],
  noise: ['size', 'detail', 'contrast', 'seed'],
};

export const patternCall = (kind: string) => CALLS[kind];

/** The functions of some patterns, with what they need. */
export const patternCode = (kinds: Iterable<string>) => NOISE + [...new Set(kinds)].map((k) => PATTERNS[k]).join('');

/** A point of a map, before it is scaled, turned and shifted, out of mapPoint, mapSide and vMapUv. */
export const projections: Record<string, string> = {
  coordinates: 'vec3( vMapUv, 0.0 )',
  solid: 'mapPoint',
  box: `vec3( mapSide.x != 0.0 ? vec2( -mapSide.x * mapPoint.z, -mapPoint.y )
    : mapSide.y != 0.0 ? vec2( mapPoint.x, mapSide.y * mapPoint.z )
    : vec2( mapSide.z * mapPoint.x, -mapPoint.y ), 0.0 ) + vec3( 0.5, 0.5, 0.0 )`,
  planar: 'vec3( mapPoint.x + 0.5, 0.5 - mapPoint.y, 0.0 )',
  cylindrical: 'vec3( atan( mapPoint.x, mapPoint.z ) / 6.28318531 + 0.5, 0.5 - mapPoint.y, 0.0 )',
  spherical:
    'vec3( atan( mapPoint.x, mapPoint.z ) / 6.28318531 + 0.5, acos( clamp( normalize( mapPoint ).y, -1.0, 1.0 ) ) / 3.14159265, 0.0 )',
};
