import { type CaptureStatus, type LinkStatus, MOST_AT, ROUTES, type ServerMessage } from '@just-balance/contract';
import { type Sample, unpackSecond } from '@just-balance/core/link';
import { useCallback, useEffect, useRef, useState } from 'react';
import { api, SCREEN, saySignedOut } from './api.ts';
import { byInterval, heartbeat } from './heartbeat.ts';
import { catchUp, lookAgain } from './job.ts';
import { shopClock } from './shopClock.ts';
import { type TracePoint, Traces } from './traces.ts';

/** A screen that has the job open, and at what it is. */
export interface Present {
  name: string;
  at: string | null;
}

export interface JobLive {
  connected: boolean;
  /** The socket was closed, or could not be opened, and is tried again. */
  lost: boolean;
  values: Record<string, number | string>;
  /** The last two minutes of every numeric channel, seconds since the page opened. */
  traces: Map<string, TracePoint[]>;
  link: LinkStatus | null;
  capture: CaptureStatus | null;
  setCapture: (c: CaptureStatus | null) => void;
  /** Who has the job open, each screen once; one's own is among them. */
  present: readonly Present[];
  /** Through the adapter at this device. */
  atDevice: boolean;
  /** Every figure as it comes in, on the wall clock. */
  listen: (f: (samples: readonly Sample[]) => void) => () => void;
}

/** What a message holds, in time order: the whole second where it comes with it. */
function samplesOf(m: Extract<ServerMessage, { type: 'live' }>): Sample[] {
  const { second } = m;
  if (!second) return Object.entries(m.values).map(([channel, value]) => ({ channel, atUs: m.t * 1000, value }));
  return unpackSecond(second);
}

const RECONNECT_MS = [500, 1000, 2000, 4000];
/** What the server closes a socket with whose session is over. */
const NOT_SIGNED_IN = 4401;

/** At what this page is, and the way to tell the others; one job is open in a page. */
const place: { at: string | null; tell: (message: object) => void } = { at: null, tell: () => {} };

/** Tell who else has the job open at what this screen is. */
export function useAt(words: string | null): void {
  useEffect(() => {
    const at = words?.slice(0, MOST_AT) ?? null;
    if (at === null || at === place.at) return;
    place.at = at;
    place.tell({ type: 'at', at });
  }, [words]);
}

/** Live values, link and capture of one job over the socket; reconnects by itself. */
export function useJobLive(jobId: string): JobLive {
  const [connected, setConnected] = useState(false);
  const [lost, setLost] = useState(false);
  const [values, setValues] = useState<Record<string, number | string>>({});
  const [link, setLink] = useState<LinkStatus | null>(null);
  const [present, setPresent] = useState<readonly Present[]>([]);
  const [capture, setCapture] = useState<CaptureStatus | null>(null);
  const traces = useRef(new Traces());
  const hearing = useRef(new Set<(samples: readonly Sample[]) => void>());
  const listen = useCallback((f: (samples: readonly Sample[]) => void) => {
    hearing.current.add(f);
    return () => void hearing.current.delete(f);
  }, []);

  useEffect(() => {
    let socket: WebSocket | null = null;
    let heart: ReturnType<typeof heartbeat> | null = null;
    let tries = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let over = false;
    traces.current = new Traces();

    const refresh = () => {
      api.get(ROUTES.link(jobId)).then(
        (s) => !over && setLink(s),
        () => {},
      );
      api.get(ROUTES.runningCapture(jobId)).then(
        (s) => !over && setCapture(s.status),
        () => {},
      );
    };
    const open = () => {
      const mine = new WebSocket(`${location.protocol === 'https:' ? 'wss' : 'ws'}://${location.host}/ws`);
      socket = mine;
      const tell = (message: object) => {
        if (mine.readyState === WebSocket.OPEN) mine.send(JSON.stringify(message));
      };
      place.tell = tell;
      heart?.stop();
      heart = heartbeat({
        ask: () => tell({ type: 'beat', sentMs: Date.now() }),
        // Nothing comes any more, and nobody closes it: another one is tried.
        gone: () => {
          mine.onclose = null;
          mine.onmessage = null;
          mine.close();
          closed();
        },
        often: byInterval,
      });
      socket.onopen = () => socket?.send(JSON.stringify({ type: 'subscribe', jobId, screen: SCREEN }));
      socket.onmessage = (e: MessageEvent<string>) => {
        heart?.heard();
        const m = JSON.parse(e.data) as ServerMessage;
        if (m.type === 'beat') {
          if (m.sentMs !== null) shopClock.heard(m.sentMs, m.clockMs);
        } else if (m.type === 'subscribed') {
          tries = 0;
          setConnected(true);
          setLost(false);
          refresh();
          if (place.at !== null) tell({ type: 'at', at: place.at });
          void catchUp(jobId, m.changes);
        } else if (m.type === 'live' && m.jobId === jobId) {
          const t = m.t / 1000;
          for (const [k, v] of Object.entries(m.values)) {
            if (typeof v === 'number') traces.current.add(k, t, v);
          }
          setValues((old) => ({ ...old, ...m.values }));
          const samples = samplesOf(m);
          for (const f of hearing.current) f(samples);
        } else if (m.type === 'present' && m.jobId === jobId)
          setPresent(m.people.map((name, i) => ({ name, at: m.at?.[i] ?? null })));
        else if (m.type === 'link') setLink(m.status);
        else if (m.type === 'capture') setCapture(m.status);
        else if (m.type === 'changed' && m.screen !== SCREEN) void lookAgain(m.jobId, m.resources);
      };
      socket.onclose = ({ code }) => {
        if (over) return;
        if (code === NOT_SIGNED_IN) saySignedOut();
        closed();
      };
    };
    const closed = () => {
      heart?.stop();
      setConnected(false);
      setPresent([]);
      setLost(true);
      timer = setTimeout(open, RECONNECT_MS[Math.min(tries++, RECONNECT_MS.length - 1)]);
    };
    // A page that is left may be kept whole by the browser for the way back, its socket open and answering.
    const away = () => {
      clearTimeout(timer);
      heart?.stop();
      if (socket) socket.onclose = null;
      place.tell = () => {};
      socket?.close();
    };
    const back = (e: PageTransitionEvent) => {
      if (!e.persisted) return;
      tries = 0;
      open();
    };
    window.addEventListener('pagehide', away);
    window.addEventListener('pageshow', back);
    open();
    return () => {
      over = true;
      window.removeEventListener('pagehide', away);
      window.removeEventListener('pageshow', back);
      away();
    };
  }, [jobId]);

  return {
    connected,
    lost,
    values,
    traces: traces.current,
    link,
    capture,
    setCapture,
    present,
    atDevice: false,
    listen,
  };
}
