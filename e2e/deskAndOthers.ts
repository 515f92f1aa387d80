import type { Browser } from 'playwright-core';
import { expect } from 'vitest';
import type { ChangesPage, StoredChange } from '#core/catalogue';
import { call, changeOf, sendChanges } from '../server/client.ts';
import type { ServerAddress } from '../server/client.ts';
import { deskWithLink } from './desk.ts';

/** A desk with one link, and what is done to that link here, at the server, and by somebody else. */
export const deskAndOthers = async (browser: Browser) => {
  const desk = await deskWithLink(browser);
  const { server, records, page } = desk;
  const stored = async (record: string, at: ServerAddress = server): Promise<StoredChange | undefined> => {
    const { body } = await call(at, 'GET', '/changes?after=0');
    const all: ChangesPage = JSON.parse(body);
    return all.changes.find((change) => change.record === record);
  };
  /** The link as somebody else makes it, on what the server has now. */
  const elsewhere = async (more: object | null, by = 'Joris'): Promise<void> => {
    const before = await stored('lnk_saturn');
    const revision = (before?.revision ?? 0) + 1;
    const change = changeOf('link', { ...records.link, ...before?.value, ...more }, revision, by);
    const answer = await sendChanges(server, [more === null ? { ...change, value: null } : change]);
    expect(answer.refused).toEqual([]);
  };
  const editEntry = async (field: string, text: string, on = page): Promise<void> => {
    await on.getByRole('button', { name: 'Edit entry' }).click();
    await on.getByLabel(field, { exact: true }).fill(text);
  };
  const save = (on = page) => on.getByRole('button', { name: 'Save', exact: true }).click();
  const heading = (text: string, on = page) => on.getByRole('heading', { name: text, exact: true }).waitFor();
  const goTo = (path: string, on = page) => on.goto(`http://localhost:${server.port}${path}`);
  return { ...desk, stored, elsewhere, editEntry, save, heading, goTo };
};
