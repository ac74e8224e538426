import { session } from '../../stores/session.svelte';
import { stageView } from './shared';

const [WIDTH, HEIGHT] = [128, 72];

/** Pictures of frames beside each other, close to some objects wherever they go; null where nothing can be drawn. */
export async function stripOf(ids: string[], frames: number[]): Promise<Blob | null> {
  const { engine } = session.shot;
  if (!engine) return null;
  try {
    const view = stageView();
    const aside = (frame: number) => {
      engine.beside.evaluate(frame);
      return engine.beside;
    };
    const around = view.pictures.extent(aside, frames, session.shot.family(ids));
    const canvas = document.createElement('canvas');
    [canvas.width, canvas.height] = [WIDTH * frames.length, HEIGHT];
    const context = canvas.getContext('2d')!;
    const left = [...frames];
    while (left.length > 0) {
      for (const url of view.pictures.take(aside, left, around, WIDTH, HEIGHT)) {
        const image = new Image();
        image.src = url;
        await image.decode();
        context.drawImage(image, (frames.length - left.length) * WIDTH, 0);
        left.shift();
      }
    }
    return await new Promise((done) => canvas.toBlob(done, 'image/jpeg', 0.85));
  } catch {
    return null;
  }
}
