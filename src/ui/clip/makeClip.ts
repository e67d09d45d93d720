// Makes a clip in a thread of the browser, which gets its pictures from here.

import type { ClipOrder, FromThread, ToThread } from './talk';

export interface MadeClip {
  blob: Blob;
  kind: 'mp4' | 'webm';
  codec: string;
  width: number;
  height: number;
  unread: number[];
}

/** Throws Error with words for people; resolves to null when `signal` says to stop. `pictureOf`: where the picture of a frame number is. */
export function makeClip(
  order: ClipOrder,
  pictureOf: (frame: number) => string,
  { signal, onDrawn }: { signal: AbortSignal; onDrawn: (done: number) => void },
): Promise<MadeClip | null> {
  return new Promise((resolve, reject) => {
    const thread = new Worker(new URL('./clip.worker.ts', import.meta.url), { type: 'module' });
    const say = (what: ToThread, moved: Transferable[] = []) => thread.postMessage(what, moved);
    const end = (settle: () => void) => {
      thread.terminate();
      signal.removeEventListener('abort', stop);
      settle();
    };
    const stop = () => end(() => resolve(null));
    if (signal.aborted) return stop();
    signal.addEventListener('abort', stop);
    thread.onerror = (e) => end(() => reject(new Error(e.message || 'The clip could not be begun.')));
    thread.onmessage = ({ data }: MessageEvent<FromThread>) => {
      if (data.say === 'want') void answer(data.frame);
      else if (data.say === 'drawn') onDrawn(data.done);
      else if (data.say === 'failed') end(() => reject(new Error(data.why)));
      else {
        const { file, kind, codec, width, height, unread } = data;
        const blob = new Blob([file], { type: `video/${kind}` });
        end(() => resolve({ blob, kind, codec, width, height, unread }));
      }
    };
    const answer = async (frame: number) => {
      try {
        const response = await fetch(pictureOf(frame), { signal });
        // A frame that is no picture is marked in the clip; a server that is gone ends it.
        if (!response.ok) return say({ say: 'picture', picture: null, why: String(response.status) });
        const picture = await response.arrayBuffer();
        say({ say: 'picture', picture, why: '' }, [picture]);
      } catch (cause) {
        if (!signal.aborted)
          end(() => reject(new Error('The application cannot be reached any more.', { cause })));
      }
    };
    say({ say: 'begin', order });
  });
}
