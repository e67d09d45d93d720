// What was asked a moment ago is not asked again: for questions that every open page asks at once, where an answer may be a moment old.

/** Answers by what `keyOf` tells apart, each good for `ms`; at most `most` are kept. An answer that failed is asked for again. */
export function lately<Of, T>(
  ms: number,
  ask: (of: Of) => Promise<T>,
  keyOf: (of: Of) => string = String,
  most = 5000,
): (of: Of) => Promise<T> {
  const held = new Map<string, { until: number; answer: Promise<T> }>();
  return (of) => {
    const key = keyOf(of);
    const known = held.get(key);
    if (known && known.until > Date.now()) return known.answer;
    const answer = ask(of);
    answer.catch(() => held.delete(key));
    // The newest are last.
    held.delete(key);
    held.set(key, { until: Date.now() + ms, answer });
    if (held.size > most) held.delete(held.keys().next().value!);
    return answer;
  };
}
