/** The live socket: one request in flight, the latest wish next; pictures, progress and word of changes come back. */
import type { Curve, Edit, Growing, Picture, Progress, View } from './types';

interface Wish {
  view: View;
  edits: Edit[];
}

interface Handlers {
  picture: (picture: Picture) => void;
  progress: (progress: Progress) => void;
  growing: (growing: Growing) => void;
  changed: (version: number) => void;
  error: (says: string) => void;
  linked: (linked: boolean) => void;
  /** What the page that the server has now begins with. */
  page: (entry: string) => void;
}

interface Message {
  progress?: Progress;
  error?: string;
  changed?: number;
  page?: string;
}

const MOST_REST_MS = 500;

export class Live {
  private socket: WebSocket | null = null;
  private waiting: Wish | null = null;
  private last: Wish | null = null;
  private busy = false;
  private seq = 0;
  private closed = false;

  constructor(
    private slug: string,
    private name: string,
    private on: Handlers,
  ) {
    this.open();
  }

  private open() {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
    const address = `${scheme}://${location.host}/api/projects/${this.slug}/live?window=${this.name}`;
    const socket = new WebSocket(address);
    socket.binaryType = 'arraybuffer';
    socket.onopen = () => {
      this.busy = false;
      this.on.linked(true);
      this.waiting ??= this.last;
      this.next();
    };
    socket.onmessage = (event) => this.receive(event.data);
    socket.onclose = () => {
      if (this.closed) return;
      this.on.linked(false);
      window.setTimeout(() => this.open(), 700);
    };
    this.socket = socket;
  }

  want(wish: Wish) {
    this.waiting = wish;
    this.next();
  }

  private next() {
    if (this.busy || !this.waiting || this.socket?.readyState !== WebSocket.OPEN) return;
    this.busy = true;
    this.seq += 1;
    this.last = this.waiting;
    this.waiting = null;
    this.socket.send(JSON.stringify({ seq: this.seq, ...this.last }));
  }

  private receive(data: ArrayBuffer | string) {
    if (typeof data === 'string') {
      this.told(JSON.parse(data) as Message);
      return;
    }
    const began = performance.now();
    const frame = decode(data);
    if ('running' in frame) {
      this.on.growing(frame as unknown as Growing);
      this.painted('drawn', began);
      return;
    }
    this.busy = false;
    this.on.picture(frame);
    this.next();
  }

  /**
   * Say that what came has been painted: a slow page sees fewer frames, never old ones. It is said after a rest as long
   * as the painting took, so that a busy page has time left for what a person does.
   */
  private painted(what: 'drawn' | 'seen', began: number) {
    const socket = this.socket;
    const say = () => socket?.readyState === WebSocket.OPEN && socket.send(what);
    const rest = () => window.setTimeout(say, Math.min(performance.now() - began, MOST_REST_MS));
    requestAnimationFrame(() => window.setTimeout(rest));
  }

  private told(message: Message) {
    if (message.progress) {
      const began = performance.now();
      this.on.progress(message.progress);
      this.painted('seen', began);
    }
    if (message.page) this.on.page(message.page);
    if (message.changed !== undefined) this.on.changed(message.changed);
    if (message.error) {
      this.busy = false;
      this.on.error(message.error);
      this.next();
    }
  }

  close() {
    this.closed = true;
    this.socket?.close();
  }
}

interface RawCurve extends Omit<Curve, 'values' | 'x'> {
  values: [number, number];
  x: [number, number] | null;
}

/** A frame: length of the head, the head as JSON, then float32 arrays. */
export function decode(frame: ArrayBuffer): Picture {
  const length = new DataView(frame).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(frame, 4, length))) as Omit<Picture, 'curves'> & {
    curves: RawCurve[];
  };
  const take = ([from, count]: [number, number]) => new Float32Array(frame, 4 + length + from * 4, count);
  return { ...head, curves: head.curves.map((c) => ({ ...c, values: take(c.values), x: c.x && take(c.x) })) };
}
