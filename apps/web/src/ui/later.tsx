import { type ComponentType, createElement, lazy, type ReactNode, Suspense } from 'react';

const left: (() => Promise<unknown>)[] = [];

/** What is no component and comes the same way: when it is first asked for, or when the page has nothing else to do. */
export function ahead<T>(load: () => Promise<T>): () => Promise<T> {
  left.push(load);
  return load;
}

/**
 * A component whose code comes when it is first drawn, or when the page has nothing else to do. Where it could not come
 * it is asked for again the next time it is drawn.
 *
 * @param wait What stands in its place until then.
 */
export function later<P extends object>(
  load: () => Promise<ComponentType<P>>,
  wait: ReactNode = null,
): ComponentType<P> {
  ahead(load);
  const make = () =>
    lazy<ComponentType<P>>(async () => {
      try {
        return { default: await load() };
      } catch (e) {
        Loaded = make();
        throw e;
      }
    });
  let Loaded = make();
  return (props) => createElement(Suspense, { fallback: wait }, createElement(Loaded as ComponentType<P>, props));
}

/**
 * Brings what has not been drawn yet, one after another, once the page has nothing else to do: it opens at once then,
 * and without the server.
 *
 * @returns What stops it.
 */
export function bringTheRest(): () => void {
  let stopped = false;
  const next = () => {
    const load = stopped ? undefined : left.shift();
    if (!load) return;
    load()
      .catch(() => {})
      .finally(() => whenIdle(next));
  };
  whenIdle(next);
  return () => {
    stopped = true;
  };
}

/** Not every browser says when it is idle. */
function whenIdle(then: () => void) {
  if ('requestIdleCallback' in globalThis) requestIdleCallback(then, { timeout: 4_000 });
  else setTimeout(then, 500);
}
