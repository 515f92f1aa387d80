import { describe, expect, it } from 'vitest';
import { forkOf, signatureOf } from './generation.ts';

const story = (...generations: [id: string, version: number, seq: number][]) => ({
  identity: 'one',
  generations: generations.map(([id, version, seq]) => ({ id, version, seq })),
});

describe('where a server’s story parts from the one a browser followed', () => {
  const met = story(['g1', 0, 0], ['g2', 100, 900], ['g3', 200, 1800]);

  it('is nowhere while nothing new began', () => {
    expect(forkOf(met, story(['g1', 0, 0], ['g2', 100, 900], ['g3', 200, 1800]))).toBeUndefined();
  });

  it('is where the server was started anew', () => {
    const now = story(
      ['g1', 0, 0],
      ['g2', 100, 900],
      ['g3', 200, 1800],
      ['g4', 250, 2000],
      ['g5', 300, 3000],
    );
    expect(forkOf(met, now)).toMatchObject({ version: 250, seq: 2000 });
  });

  it('is where the folder that was put back was copied', () => {
    const now = story(['g1', 0, 0], ['g2', 100, 900], ['g6', 150, 1400], ['g7', 400, 5000]);
    expect(forkOf(met, now)).toMatchObject({ version: 150, seq: 1400 });
  });

  it('is where the browser’s own line left the common one, where that was earlier', () => {
    // The browser followed a server that was set back to 120; now a folder is put back that was copied before, at 180.
    const followed = story(['g1', 0, 0], ['g9', 120, 1000]);
    const now = story(['g1', 0, 0], ['g2', 160, 1500], ['g10', 180, 1700]);
    expect(forkOf(followed, now)).toEqual({ version: 120, seq: 1000 });
  });

  it('is told by the signature of its answers', () => {
    expect(signatureOf(met)).toBe('one g3');
  });

  it('is at the very beginning where nothing is known in common', () => {
    expect(forkOf(met, story(['g8', 30, 40]))).toEqual({ version: 0, seq: 0 });
  });
});
