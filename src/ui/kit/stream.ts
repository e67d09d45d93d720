// The stream of events, one for all windows of this browser: a browser keeps six connections to a server without encryption, and a stream takes one for as long as
// its window is open. Who holds the lock has the stream (Web Locks), and tells the others what it hears; its window closes, and the next has it.

/** What is heard: `opening` before it is asked for, then `open`, and messages; `error` where it broke off, and is asked for again. */
export type Word = { is: 'opening' | 'open' | 'error' } | { is: 'message'; text: string };

const name = 'satchel-events';
const again = 1500; // ms

/** Hears until what is returned is called. */
export function listen(hear: (word: Word) => void): () => void {
  const channel = new BroadcastChannel(name);
  channel.onmessage = (event: MessageEvent<Word>) => hear(event.data);
  let source: EventSource | null = null;
  let waiting: ReturnType<typeof setTimeout> | undefined;
  let leave = () => {};
  const stop = new AbortController();
  const say = (word: Word) => {
    hear(word);
    channel.postMessage(word);
  };
  const lead = () => {
    say({ is: 'opening' });
    source = new EventSource('/api/events');
    source.onopen = () => say({ is: 'open' });
    source.onmessage = (event: MessageEvent<string>) => say({ is: 'message', text: event.data });
    source.onerror = () => {
      source?.close();
      say({ is: 'error' });
      waiting = setTimeout(lead, again);
    };
  };
  navigator.locks
    .request(name, { signal: stop.signal }, () => {
      if (stop.signal.aborted) return undefined;
      lead();
      return new Promise<void>((done) => (leave = done));
    })
    .catch(() => undefined);
  return () => {
    clearTimeout(waiting);
    source?.close();
    stop.abort();
    leave();
    channel.close();
  };
}
