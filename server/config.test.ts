import { describe, expect, it } from 'vitest';
import { readConfig } from './config.ts';

describe('the configuration', () => {
  it('has a default for everything', () =>
    expect(readConfig({})).toMatchObject({
      port: 4600,
      host: '127.0.0.1',
      appOrigin: 'http://localhost:4600',
      standins: false,
    }));

  it.each([
    [{ PORT: 'eighty' }, 'PORT=eighty'],
    [{ PORT: '70000' }, 'PORT=70000'],
    [{ APP_ORIGIN: 'http://desk.nightledge.example' }, 'https://'],
    [{ APP_ORIGIN: 'https://desk.nightledge.example/app' }, 'no origin'],
    [{ FERNHOP_KEY: 'short' }, '16 to 200'],
    [{ STANDINS: 'yes' }, '0 or 1'],
    [{ FERNHOP_KEYS: 'x' }, 'FERNHOP_KEYS is no setting'],
  ])('%o stops the start with one clear line', (env, message) => {
    expect(() => readConfig(env)).toThrow(message);
    try {
      readConfig(env);
    } catch (error) {
      expect(String(error)).not.toContain('\n');
    }
  });
});
