import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { decode, Live } from './live';
import type { View } from './types';

/** A frame as the server encodes it: length, head filled up to four bytes, floats. */
function frame(head: object, floats: number[]): ArrayBuffer {
  let text = JSON.stringify(head);
  text += ' '.repeat((4 - (text.length % 4)) % 4);
  const out = new ArrayBuffer(4 + text.length + 4 * floats.length);
  new DataView(out).setUint32(0, text.length, true);
  new Uint8Array(out, 4).set(new TextEncoder().encode(text));
  floats.forEach((value, n) => new DataView(out).setFloat32(4 + text.length + 4 * n, value, true));
  return out;
}

const curve = (id: string, values: [number, number], x: [number, number] | null = null) => ({
  id,
  role: 'bold',
  label: id,
  pane: 'main',
  channel: '',
  values,
  x,
});

class FakeSocket {
  static made: FakeSocket[] = [];
  static OPEN = 1;
  readyState = 1;
  binaryType = '';
  sent: string[] = [];
  onopen = () => {};
  onclose = () => {};
  onmessage: (event: { data: string | ArrayBuffer }) => void = () => {};
  constructor(public address: string) {
    FakeSocket.made.push(this);
  }
  send(text: string) {
    this.sent.push(text);
  }
  close() {
    this.readyState = 3;
    this.onclose();
  }
}

const view = (selection: string) => ({ stage: 'drivers', selection }) as unknown as View;
const handlers = () => ({
  picture: vi.fn(),
  progress: vi.fn(),
  growing: vi.fn(),
  changed: vi.fn(),
  error: vi.fn(),
  linked: vi.fn(),
  page: vi.fn(),
});

describe('frames', () => {
  it('give every curve its own floats, and an axis where it has one', () => {
    const head = { seq: 1, facts: { seam: 'a' }, curves: [curve('one', [0, 2]), curve('two', [2, 1], [3, 1])] };
    const picture = decode(frame(head, [1, 2, 3, 4]));
    expect(Array.from(picture.curves[0].values)).toEqual([1, 2]);
    expect(picture.curves[0].x).toBeNull();
    expect(Array.from(picture.curves[1].values)).toEqual([3]);
    expect(Array.from(picture.curves[1].x!)).toEqual([4]);
    expect(picture.facts.seam).toBe('a');
  });

  it('keep what is not known as not a number', () => {
    const picture = decode(frame({ curves: [curve('one', [0, 2])] }, [NaN, 5]));
    expect(Number.isNaN(picture.curves[0].values[0])).toBe(true);
  });
});

describe('the socket', () => {
  beforeEach(() => {
    FakeSocket.made = [];
    vi.stubGlobal('WebSocket', FakeSocket);
    vi.stubGlobal('window', globalThis);
    vi.useFakeTimers();
    vi.stubGlobal('requestAnimationFrame', (drawn: () => void) => setTimeout(drawn, 16));
  });
  afterEach(() => {
    vi.unstubAllGlobals();
    vi.useRealTimers();
  });

  it('names its window, and has one request in flight: the latest wish is next, those between are dropped', () => {
    const on = handlers();
    const live = new Live('wren', 'mine', on);
    const [socket] = FakeSocket.made;
    expect(socket.address).toBe('ws://127.0.0.1:8642/api/projects/wren/live?window=mine');
    socket.onopen();
    for (const name of ['a', 'b', 'c']) live.want({ view: view(name), edits: [] });
    expect(socket.sent.map((text) => JSON.parse(text).view.selection)).toEqual(['a']);
    socket.onmessage({ data: frame({ seq: 1, curves: [] }, []) });
    expect(socket.sent.map((text) => JSON.parse(text).view.selection)).toEqual(['a', 'c']);
    expect(on.picture).toHaveBeenCalledTimes(1);
    expect(JSON.parse(socket.sent[1]).seq).toBe(2);
  });

  it('tells progress, changes and refusals apart, and goes on after a refusal', () => {
    const on = handlers();
    const live = new Live('wren', 'mine', on);
    const [socket] = FakeSocket.made;
    socket.onopen();
    live.want({ view: view('a'), edits: [] });
    live.want({ view: view('b'), edits: [] });
    socket.onmessage({ data: JSON.stringify({ progress: { version: 1 }, page: 'index-a.js' }) });
    expect(on.page).toHaveBeenCalledWith('index-a.js');
    socket.onmessage({ data: JSON.stringify({ changed: 7 }) });
    expect(on.progress).toHaveBeenCalledWith({ version: 1 });
    expect(on.changed).toHaveBeenCalledWith(7);
    expect(socket.sent).toHaveLength(1);
    socket.onmessage({ data: JSON.stringify({ seq: 1, error: 'no' }) });
    expect(on.error).toHaveBeenCalledWith('no');
    expect(socket.sent).toHaveLength(2);
  });

  it('says that a frame was painted after a rest as long as the painting took', () => {
    const on = handlers();
    on.growing.mockImplementation(() => vi.advanceTimersByTime(120));
    new Live('wren', 'mine', on);
    const [socket] = FakeSocket.made;
    socket.onopen();
    socket.onmessage({ data: frame({ running: true, curves: [] }, []) });
    vi.advanceTimersByTime(100);
    expect(socket.sent).toEqual([]);
    vi.advanceTimersByTime(100);
    expect(socket.sent).toEqual(['drawn']);
    socket.onmessage({ data: JSON.stringify({ progress: { version: 2 } }) });
    vi.advanceTimersByTime(60);
    expect(socket.sent).toEqual(['drawn', 'seen']);
  });

  it('links itself again and asks once more for what it last asked', () => {
    const on = handlers();
    const live = new Live('wren', 'mine', on);
    FakeSocket.made[0].onopen();
    live.want({ view: view('a'), edits: [] });
    FakeSocket.made[0].close();
    expect(on.linked).toHaveBeenLastCalledWith(false);
    vi.advanceTimersByTime(800);
    expect(FakeSocket.made).toHaveLength(2);
    FakeSocket.made[1].onopen();
    expect(on.linked).toHaveBeenLastCalledWith(true);
    expect(JSON.parse(FakeSocket.made[1].sent[0]).view.selection).toBe('a');
  });

  it('stays closed when it was closed on purpose', () => {
    const on = handlers();
    new Live('wren', 'mine', on).close();
    vi.advanceTimersByTime(5000);
    expect(FakeSocket.made).toHaveLength(1);
    expect(on.linked).not.toHaveBeenCalledWith(false);
  });
});
