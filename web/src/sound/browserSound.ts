/** The browser's microphone and output, opened for the server: its samples are played, what is heard goes back. */
import type { BrowserOpened } from '../api/types';
import worklet from './duplex.worklet.ts?worker&url';

/** How the microphone is; `says` why it is not open. */
export interface Microphone {
  state: 'closed' | 'asking' | 'open' | 'refused';
  says: string;
  /** The highest level of the last tenth of a second, in dB of full scale. */
  peak: number | null;
  /** Where the page stood in the background while it recorded. */
  hidden: boolean;
}

export const CLOSED: Microphone = { state: 'closed', says: '', peak: null, hidden: false };

export interface Choices {
  input: string;
  output: string;
  /** One for a microphone alone, which browsers would show twice; two where a loopback is on the other. */
  channels: 1 | 2;
}

/** What browsers do to a voice, and a measurement cannot bear. */
const PROCESSING = [
  ['echoCancellation', 'echo cancelling'],
  ['noiseSuppression', 'noise suppression'],
  ['autoGainControl', 'automatic gain'],
] as const;

/** Chromium puts outputs of choice behind this; others play on the system's own. */
type Sinking = AudioContext & { setSinkId?: (id: string) => Promise<void> };

/** How many samples a track lost, where the browser tells. */
interface TrackStats {
  deliveredFrames: number;
  totalFrames: number;
}
type Counting = MediaStreamTrack & { stats?: TrackStats };

const HEAD = 8;
/** How often it is looked whether the microphone is still there: not every system tells when one is pulled out. */
const LOOK_MS = 1500;

export class BrowserSound {
  private stream: MediaStream | null = null;
  private context: Sinking | null = null;
  private node: AudioWorkletNode | null = null;
  private socket: WebSocket | null = null;
  private lost: number | null = null;
  private running = false;
  private looking = 0;

  constructor(private told: (values: Partial<Microphone>) => void) {
    document.addEventListener('visibilitychange', () => {
      if (document.hidden && this.running) this.told({ hidden: true });
    });
  }

  /** Open it at a rate; resolves when the server has it. Whether it came to that. */
  async open(rate: number, choices: Choices): Promise<boolean> {
    this.close();
    this.told({ ...CLOSED, state: 'asking' });
    try {
      const opened = await this.start(rate, choices);
      await this.link(opened);
      this.told({ state: 'open' });
      return true;
    } catch (error) {
      this.end();
      this.told({ ...CLOSED, state: 'refused', says: why(error) });
      return false;
    }
  }

  /** Let go of it. */
  close() {
    this.end();
    this.told(CLOSED);
  }

  private end() {
    const { socket, context, stream } = this;
    this.socket = this.node = this.context = this.stream = null;
    this.running = false;
    window.clearInterval(this.looking);
    if (socket) socket.onclose = socket.onmessage = null;
    socket?.close();
    stream?.getTracks().forEach((track) => {
      track.onended = track.onmute = null;
      track.stop();
    });
    void context?.close().catch(() => undefined);
  }

  /** It is gone: tell the server why, and the person. */
  private lose(reason: 'unplugged' | 'muted' | 'stopped', says: string) {
    if (!this.stream) return;
    this.say({ kind: 'lost', why: reason });
    this.end();
    this.told({ ...CLOSED, state: 'refused', says });
  }

  private async start(rate: number, { input, output, channels }: Choices): Promise<BrowserOpened> {
    if (!navigator.mediaDevices) throw new Error('insecure');
    this.stream = await navigator.mediaDevices.getUserMedia({
      audio: {
        deviceId: input ? { exact: input } : undefined,
        channelCount: { ideal: channels },
        ...Object.fromEntries(PROCESSING.map(([name]) => [name, { ideal: false }])),
      },
    });
    const track = this.stream.getAudioTracks()[0];
    const settings = track.getSettings();
    const inputs = Math.min(channels, settings.channelCount ?? 1);
    this.context = new AudioContext({ sampleRate: rate, latencyHint: 'playback' });
    const { context } = this;
    if (output && context.setSinkId) await context.setSinkId(output);
    await context.audioWorklet.addModule(worklet);
    const node = new AudioWorkletNode(context, 'duplex', {
      channelCount: inputs,
      channelCountMode: 'explicit',
      channelInterpretation: 'discrete',
      outputChannelCount: [2],
      processorOptions: { inputs },
    });
    this.node = node;
    context.createMediaStreamSource(this.stream).connect(node).connect(context.destination);
    node.port.onmessage = (event) => this.heard(event.data);
    node.onprocessorerror = () => this.lose('stopped', 'The browser stopped its sound: open it again.');
    track.onended = () => this.lose('unplugged', 'The microphone was unplugged, or taken by another program.');
    track.onmute = () =>
      this.lose('muted', 'The browser muted the microphone: look at its switches, and open it again.');
    await context.resume();
    const ends = await navigator.mediaDevices.enumerateDevices();
    const label = named(ends, 'audioinput', settings.deviceId ?? '') || track.label || 'Microphone';
    this.looking = window.setInterval(() => void this.look(label), LOOK_MS);
    return {
      label,
      output: named(ends, 'audiooutput', output || 'default'),
      rate: context.sampleRate,
      inputs,
      latency_s: Math.min(10, (context.baseLatency || 0) + (context.outputLatency || 0)),
      processing: PROCESSING.filter(([name]) => settings[name] === true).map(([, says]) => says),
    };
  }

  private async look(label: string) {
    const ends = await navigator.mediaDevices.enumerateDevices();
    const there = ends.some((one) => one.kind === 'audioinput' && one.label === label);
    if (!there) this.lose('unplugged', 'The microphone was unplugged, or taken by another program.');
  }

  /** Tell the server what is open. Rejects where it does not take it. */
  private link(opened: BrowserOpened): Promise<void> {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws';
    const socket = new WebSocket(`${scheme}://${location.host}/api/browser-sound`);
    socket.binaryType = 'arraybuffer';
    this.socket = socket;
    return new Promise((resolve, reject) => {
      socket.onopen = () => this.say({ kind: 'open', opened });
      socket.onclose = () => {
        reject(new Error('unlinked'));
        this.end();
        this.told({
          ...CLOSED,
          state: 'refused',
          says: 'The server is gone: open the microphone again when it is back.',
        });
      };
      socket.onmessage = (event) => {
        if (typeof event.data !== 'string') {
          const samples = new Float32Array(event.data as ArrayBuffer, HEAD);
          this.node?.port.postMessage({ samples });
          return;
        }
        const message = JSON.parse(event.data) as { kind: string; run: number; frames: number; says: string };
        if (message.kind === 'opened') resolve();
        else if (message.kind === 'refused') reject(new Error(message.says));
        else if (message.kind === 'taken') {
          this.end();
          this.told({ ...CLOSED, says: 'Another window has opened its microphone.' });
        } else if (message.kind === 'begin') this.begin(message.run, message.frames);
        else if (message.kind === 'stop') {
          this.running = false;
          this.node?.port.postMessage({ stop: true });
        }
      };
    });
  }

  private begin(run: number, frames: number) {
    this.lost = this.missing();
    this.running = true;
    this.told({ hidden: false });
    void this.context?.resume();
    this.node?.port.postMessage({ begin: { run, frames } });
  }

  /** How many frames the microphone has lost so far, null where the browser does not tell. */
  private missing(): number | null {
    const stats = (this.stream?.getAudioTracks()[0] as Counting | undefined)?.stats;
    return stats ? stats.totalFrames - stats.deliveredFrames : null;
  }

  private say(message: unknown) {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  private heard(message: {
    peak?: number;
    block?: { run: number; first: number; samples: Float32Array };
    gap?: { run: number; gap: unknown };
    end?: number;
  }) {
    if (message.peak !== undefined) this.told({ peak: 20 * Math.log10(Math.max(message.peak, 1e-6)) });
    if (message.gap) this.say({ kind: 'gap', ...message.gap });
    if (message.block && this.socket?.readyState === WebSocket.OPEN) {
      const { run, first, samples } = message.block;
      const frame = new Uint8Array(HEAD + samples.byteLength);
      new Uint32Array(frame.buffer, 0, 2).set([run, first]);
      frame.set(new Uint8Array(samples.buffer), HEAD);
      this.socket.send(frame);
    }
    if (message.end !== undefined) {
      const now = this.missing();
      const gone = now === null || this.lost === null ? 0 : now - this.lost;
      if (gone > 0) this.say({ kind: 'gap', run: message.end, gap: { of: 'recorded', at: null, frames: gone } });
      this.say({ kind: 'end', run: message.end });
      this.running = false;
    }
  }
}

/** What an end is called; the system's own choice by the name of the one that it stands for. */
function named(ends: MediaDeviceInfo[], kind: MediaDeviceKind, id: string): string {
  const found = ends.find((one) => one.kind === kind && one.deviceId === id);
  const others = ends.filter((one) => one.kind === kind && one.deviceId !== id);
  const same = others.find((one) => one.groupId === found?.groupId) ?? (others.length === 1 ? others[0] : undefined);
  return (id === 'default' ? same?.label : undefined) || found?.label || '';
}

/** Why it could not be opened, in a sentence. */
function why(error: unknown): string {
  const { name, message } = error as Error;
  if (message === 'insecure') return 'This browser gives its microphone to pages of this machine only: use 127.0.0.1.';
  if (message === 'unlinked') return 'The server does not answer: open the microphone again when it is back.';
  if (name === 'NotAllowedError')
    return 'This page may not hear: allow the microphone beside the address in the browser, and open it again.';
  if (name === 'NotFoundError') return 'The browser finds no microphone: plug one in, and open it again.';
  if (name === 'OverconstrainedError')
    return 'The microphone chosen before is not there: plug it in, or choose another.';
  if (name === 'NotReadableError')
    return 'Another program holds the microphone, or the system keeps it back: free it there, and open it again.';
  if (name === 'NotSupportedError')
    return 'This browser cannot run the microphone at this rate: choose the rate that the system has.';
  return `The microphone could not be opened: ${message}`;
}
