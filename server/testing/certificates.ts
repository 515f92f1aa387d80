import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { freshFolder } from './process.ts';

const ownKey = ['-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes'];

/** An authority for tests, by openssl, and the certificates it signs; all of it in a folder of its own. */
export class Authority {
  readonly folder = freshFolder();

  constructor() {
    this.#selfSigned('ca', '/CN=An authority for tests');
    writeFileSync(join(this.folder, 'index'), '');
    writeFileSync(join(this.folder, 'serial'), '01\n');
  }

  /** What whoever is to believe it is given. */
  get root(): string {
    return this.read('ca.pem').toString('utf8');
  }

  read(name: string): Buffer {
    return readFileSync(join(this.folder, name));
  }

  /** Signs a certificate for a host, `NAME.pem` with `NAME.key`; it is valid from the beginning of one year to that of another. */
  sign(name: string, host: string, from: number, until: number): void {
    writeFileSync(
      join(this.folder, `${name}.cnf`),
      `[ca]\ndefault_ca=d\n[d]\ndatabase=index\nnew_certs_dir=.\nserial=serial\npolicy=p\ndefault_md=sha256\nunique_subject=no\nx509_extensions=x\n[p]\ncommonName=supplied\n[x]\nsubjectAltName=DNS:${host}\n`,
    );
    this.#openssl('req', ...ownKey, '-keyout', `${name}.key`, '-out', `${name}.csr`, '-subj', `/CN=${host}`);
    const signed = ['-cert', 'ca.pem', '-keyfile', 'ca.key', '-in', `${name}.csr`, '-out', `${name}.pem`];
    const valid = ['-startdate', `${from}0101000000Z`, '-enddate', `${until}0101000000Z`];
    this.#openssl('ca', '-batch', '-config', `${name}.cnf`, ...signed, ...valid, '-notext');
  }

  /** Makes a certificate for a host that is signed by itself. */
  signByItself(name: string, host: string): void {
    this.#selfSigned(name, `/CN=${host}`, '-addext', `subjectAltName=DNS:${host}`);
  }

  #selfSigned(name: string, subject: string, ...more: readonly string[]): void {
    const files = ['-keyout', `${name}.key`, '-out', `${name}.pem`];
    this.#openssl('req', '-x509', ...ownKey, ...files, '-days', '2', '-subj', subject, ...more);
  }

  #openssl(...args: readonly string[]): void {
    execFileSync('openssl', args, { cwd: this.folder, stdio: 'pipe' });
  }
}
