/** Plays what is queued and records what the microphone hears, in the loop of the sound itself.
 *
 * The frame that is heard counts as the frame that is played. A frame that was not there in time is silence, and said.
 */

declare const currentFrame: number;
declare const sampleRate: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

/** How many frames are handed over at a time. */
const BLOCK = 2048;
const OUTPUTS = 2;
/** How much has to be queued before a run begins, in seconds. */
const PREFILL_S = 0.3;
/** How often the level is told while nothing runs, in seconds. */
const METER_S = 0.1;

interface Run {
  number: number;
  frames: number;
  queued: number;
  played: number;
  heard: number;
  started: boolean;
  next: number;
}

class Duplex extends AudioWorkletProcessor {
  private run: Run | null = null;
  private queue: Float32Array[] = [];
  private offset = 0;
  private block = new Float32Array(0);
  private filled = 0;
  private first = 0;
  private peak = 0;
  private metered = 0;
  private inputs: number;

  constructor(options: { processorOptions: { inputs: number } }) {
    super();
    this.inputs = options.processorOptions.inputs;
    this.port.onmessage = (event) => this.told(event.data);
  }

  private told(message: { begin?: { run: number; frames: number }; samples?: Float32Array; stop?: boolean }) {
    if (message.begin) {
      const { run: number, frames } = message.begin;
      this.run = { number, frames, queued: 0, played: 0, heard: 0, started: false, next: 0 };
      this.queue = [];
      this.offset = 0;
      this.filled = 0;
      this.first = 0;
    } else if (message.samples && this.run) {
      this.queue.push(message.samples);
      this.run.queued += message.samples.length / OUTPUTS;
    } else if (message.stop) {
      this.run = null;
      this.queue = [];
    }
  }

  /** Put queued frames out; how many were missing. */
  private play(run: Run, out: Float32Array[], wanted: number): number {
    for (let n = 0; n < wanted; n += 1) {
      const piece = this.queue[0];
      if (!piece) return wanted - n;
      for (let c = 0; c < out.length; c += 1) out[c][n] = c < OUTPUTS ? piece[this.offset + c] : 0;
      this.offset += OUTPUTS;
      run.played += 1;
      if (this.offset >= piece.length) {
        this.queue.shift();
        this.offset = 0;
      }
    }
    return 0;
  }

  private record(run: Run, input: Float32Array[], wanted: number) {
    for (let n = 0; n < wanted; n += 1) {
      if (this.filled === 0) {
        this.block = new Float32Array(Math.min(BLOCK, run.frames - run.heard) * this.inputs);
        this.first = run.heard;
      }
      for (let c = 0; c < this.inputs; c += 1) this.block[this.filled + c] = input[c]?.[n] ?? 0;
      this.filled += this.inputs;
      run.heard += 1;
      if (this.filled === this.block.length) this.hand(run);
    }
  }

  private hand(run: Run) {
    const block = { run: run.number, first: this.first, samples: this.block };
    this.filled = 0;
    this.port.postMessage({ block }, [this.block.buffer as ArrayBuffer]);
  }

  private gap(run: Run, of: 'played' | 'recorded', frames: number) {
    this.port.postMessage({ gap: { run: run.number, gap: { of, at: run.heard, frames } } });
  }

  private meter(input: Float32Array[], size: number) {
    for (const channel of input) for (const value of channel) this.peak = Math.max(this.peak, Math.abs(value));
    this.metered += size;
    if (this.metered < METER_S * sampleRate) return;
    this.port.postMessage({ peak: this.peak });
    this.peak = 0;
    this.metered = 0;
  }

  process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const input = inputs[0];
    const out = outputs[0];
    const size = out[0].length;
    this.meter(input, size);
    const run = this.run;
    if (!run) return true;
    if (!run.started) {
      if (run.queued < Math.min(run.frames, PREFILL_S * sampleRate)) return true;
      run.started = true;
      run.next = currentFrame;
    }
    if (currentFrame !== run.next) this.gap(run, 'recorded', Math.max(1, Math.abs(currentFrame - run.next)));
    run.next = currentFrame + size;
    const wanted = Math.min(size, run.frames - run.heard);
    if (input.length === 0) this.gap(run, 'recorded', wanted);
    const missing = this.play(run, out, wanted);
    if (missing) this.gap(run, 'played', missing);
    this.record(run, input, wanted);
    if (run.heard >= run.frames) {
      this.run = null;
      this.queue = [];
      this.port.postMessage({ end: run.number });
    }
    return true;
  }
}

registerProcessor('duplex', Duplex);
