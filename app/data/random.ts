import { recordId, secret } from '#core/catalogue';
import { clickId } from '#core/hop';

const bytes = (count: number): Uint8Array => crypto.getRandomValues(new Uint8Array(count));

/** A fresh ID for a record. */
export const newId = (prefix: Parameters<typeof recordId>[0]): string => recordId(prefix, bytes(14));
/** A fresh ID for a change. */
export const newChangeId = (): string => clickId(Date.now(), bytes(10));
/** A fresh key for postbacks: 150 random bits. */
export const newSecret = (): string => secret(bytes(30));
