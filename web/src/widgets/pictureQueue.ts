// Pictures that the server may have to make first. A browser asks one server for six things at a time: what a hand waits for must not stand behind
// twenty pictures that take their time.
import type { Attachment } from 'svelte/attachments';

const MOST = 2;
let loading = 0;
const waiting: (() => void)[] = [];

function next() {
  while (loading < MOST && waiting.length > 0) waiting.shift()!();
}

/** Shows a picture once it can be seen and its turn has come; until then, and when another comes in its place, what is there stays. */
export const picture =
  (src: string): Attachment<HTMLImageElement> =>
  (image) => {
    let isLoading = false;
    // What has not come, or cannot, would be drawn as something broken.
    const show = () => (image.style.visibility = '');
    if (!image.currentSrc) image.style.visibility = 'hidden';
    image.addEventListener('load', show);
    const end = () => {
      if (!isLoading) return;
      isLoading = false;
      loading--;
      next();
    };
    const start = () => {
      isLoading = true;
      loading++;
      image.addEventListener('load', end, { once: true });
      image.addEventListener('error', end, { once: true });
      image.src = src;
    };
    const ask = () => {
      waiting.push(start);
      next();
    };
    const seen =
      typeof IntersectionObserver === 'undefined'
        ? null
        : new IntersectionObserver((all) => {
            if (!all.some((e) => e.isIntersecting)) return;
            seen!.disconnect();
            ask();
          });
    if (seen) seen.observe(image);
    else ask();
    return () => {
      seen?.disconnect();
      const at = waiting.indexOf(start);
      if (at >= 0) waiting.splice(at, 1);
      image.removeEventListener('load', show);
      image.removeEventListener('load', end);
      image.removeEventListener('error', end);
      // Nobody waits for it any more, nor should the server.
      if (isLoading) image.removeAttribute('src');
      end();
    };
  };
