import { expect } from 'vitest';
import type { Report } from '#core/catalogue';
import type { Season } from '../index.ts';
import { importReport } from '../index.ts';

/** Reads the reports of a season as a person would who accepts what is proposed. */
export const importAll = ({ made, reports }: Season, at: number): Report[] => {
  const networks = new Map(made.networks.map((network) => [network.id, network]));
  const all: Report[] = [];
  for (const [i, file] of reports.entries()) {
    const network = networks.get(file.network);
    if (!network) throw new Error(file.network);
    const { parts, profile, asks, bad } = importReport(file, network, all, `b${i}`, at - 86_400_000 + i);
    expect([asks, bad], file.name).toEqual([[], 0]);
    networks.set(network.id, { ...network, report: profile });
    all.push(...parts);
  }
  return all;
};
