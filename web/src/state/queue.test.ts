import { describe, expect, it } from 'vitest';
import { inTurn } from './queue';

const after = (ms: number) => new Promise((done) => setTimeout(done, ms));

describe('commands in turn', () => {
  it('begins one only when the one before has ended, however long that takes', async () => {
    const said: string[] = [];
    const slow = inTurn(async () => {
      said.push('slow begins');
      await after(30);
      said.push('slow ends');
    });
    const quick = inTurn(async () => {
      said.push('quick');
    });
    expect(said).toEqual([]);
    await Promise.all([slow, quick]);
    expect(said).toEqual(['slow begins', 'slow ends', 'quick']);
  });

  it('goes on after one that fails, and tells its own caller', async () => {
    const failing = inTurn(async () => {
      throw new Error('no');
    });
    const next = inTurn(async () => 'yes');
    await expect(failing).rejects.toThrow('no');
    await expect(next).resolves.toBe('yes');
  });

  it('hands each caller the value of its own', async () => {
    const all = [1, 2, 3, 4].map((n) => inTurn(async () => n * n));
    expect(await Promise.all(all)).toEqual([1, 4, 9, 16]);
  });
});
