// A browser without a graphics card draws in software: what costs nothing on a card is slow there, and the other way round.
import { keep, recall } from '../../widgets/kept';

/** Whether this context is drawn by the processor. */
export function drawsInSoftware(gl: WebGLRenderingContext | WebGL2RenderingContext): boolean {
  const info = gl.getExtension('WEBGL_debug_renderer_info');
  return /swiftshader|llvmpipe|software|basic render/i.test(
    info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '',
  );
}

const KEY = 'bradymotus.software';

export const remember = (software: boolean) => void keep(KEY, software ? 'yes' : 'no');

/** What the stage has found the last time it was made: some things have to be chosen before a context can be asked. */
export const isSoftware = () => recall(KEY) === 'yes';
