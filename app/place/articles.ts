import { defineStore } from 'pinia';
import { ref, shallowRef, toRaw, watch } from 'vue';
import type { Find } from '#core/articles';
import { formOfName, largestArticle } from '#core/articles';
import { useArticleReading } from './articleReading.ts';
import type { SeenArticle, SeenFile } from './articles.worker.ts';

/** A file that was opened. */
export interface OpenFile {
  readonly id: string;
  readonly name: string;
  /** Its bytes as they were read; of a pasted text as UTF-8. */
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Where it can be written to, in browsers that allow it. */
  readonly handle?: FileSystemFileHandle | undefined;
  readonly isPasted: boolean;
  readonly seen?: SeenFile | undefined;
  /** Why it is not read. */
  readonly says?: string | undefined;
}
/** An article of an open file. */
export interface OpenArticle {
  readonly file: OpenFile;
  readonly index: number;
  readonly seen: SeenArticle;
}

const describe = (fault: unknown): string => (fault instanceof Error ? fault.message : String(fault));
/** What a find is known by in its article, whatever else is found there. */
export const findName = ({ kind, start, end, key }: Find): string => `${kind} ${start} ${end} ${key}`;

/** The articles that are open in this window, what was found in them, and what of it is accepted. Nothing is written until it is asked for. */
export const useArticles = defineStore('articles', () => {
  const reading = useArticleReading();
  const files = shallowRef<readonly OpenFile[]>([]);
  /** Files that are being read. */
  const waiting = ref(0);
  const accepted = ref<ReadonlySet<string>>(new Set());
  const refused = ref<ReadonlySet<string>>(new Set());
  const sources = new Map<string, string[]>();
  let lastId = 0;

  const set = (id: string, more: Partial<OpenFile>) => {
    files.value = files.value.map((file) => (file.id === id ? { ...file, ...more } : file));
  };
  const take = async (file: Omit<OpenFile, 'id' | 'seen'>, text?: string): Promise<string> => {
    const id = `f${++lastId}`;
    files.value = [...files.value, { ...file, id }];
    if (file.says !== undefined) return id;
    waiting.value += 1;
    try {
      const worker = await reading.worker();
      const read =
        text === undefined ? await worker.open(id, file.name, file.bytes) : await worker.paste(id, text);
      set(id, 'says' in read ? { says: read.says } : { seen: read });
    } catch (fault) {
      set(id, { says: `It could not be read: ${describe(fault)}` });
    } finally {
      waiting.value -= 1;
    }
    return id;
  };
  /** Keeps of files that were read what of ours stands in them, so that it is known where links are used. */
  const keepRead = async (ids: readonly string[]): Promise<void> => {
    const worker = await reading.worker();
    const read = (await Promise.all(ids.map((id) => worker.pages(id, Date.now())))).flat();
    await reading.keepPages(read);
  };
  const open = async (
    list: readonly { readonly file: File; readonly name: string; readonly handle?: FileSystemFileHandle }[],
  ): Promise<void> => {
    const ids: string[] = [];
    for (const { file, name, handle } of list) {
      const isLarge = file.size > largestArticle;
      const bytes = new Uint8Array(isLarge ? new ArrayBuffer(0) : await file.arrayBuffer());
      const id = await take({
        name,
        bytes,
        handle,
        isPasted: false,
        ...(isLarge && {
          says: `It has ${Math.round(file.size / 1_000_000)} MB. Articles are read up to ${largestArticle / 1_000_000} MB; part it into several.`,
        }),
      });
      ids.push(id);
    }
    await keepRead(ids);
  };
  /** Opens what of some files may be an article; how many were passed over. */
  const openFiles = async (list: readonly File[]): Promise<number> => {
    const nameOf = (file: File) => file.webkitRelativePath || file.name;
    const fitting = list.length === 1 ? list : list.filter((file) => formOfName(file.name) !== undefined);
    await open(fitting.map((file) => ({ file, name: nameOf(file) })));
    return list.length - fitting.length;
  };
  /** Opens a folder that can be written to. */
  const openFolder = async (folder: FileSystemDirectoryHandle): Promise<void> => {
    const found: { file: File; name: string; handle: FileSystemFileHandle }[] = [];
    const walk = async (inside: FileSystemDirectoryHandle, path: string): Promise<void> => {
      for await (const [name, handle] of inside.entries()) {
        if (name.startsWith('.') || name === 'node_modules') continue;
        if (handle.kind === 'directory') await walk(handle as FileSystemDirectoryHandle, `${path}${name}/`);
        else if (formOfName(name) !== undefined) {
          const own = handle as FileSystemFileHandle;
          found.push({ file: await own.getFile(), name: path + name, handle: own });
        }
      }
    };
    await walk(folder, '');
    await open(found.toSorted((a, b) => (a.name < b.name ? -1 : 1)));
  };
  const paste = (text: string): Promise<string> =>
    take({ name: 'Pasted text', bytes: new TextEncoder().encode(text), isPasted: true }, text);
  /** Reads a file as a person says it is written. */
  const readAs = async (file: OpenFile, encoding: string): Promise<void> => {
    const worker = await reading.worker();
    const read = await worker.open(file.id, file.name, file.bytes, encoding);
    set(file.id, 'says' in read ? { says: read.says, seen: undefined } : { seen: read, says: undefined });
    await keepRead([file.id]);
  };
  /** Looks at every file anew, as links or choices changed. */
  const lookAgain = async (): Promise<void> => {
    const worker = await reading.worker();
    for (const { id, seen } of files.value)
      if (seen) set(id, { seen: await worker.look(id, sources.get(id)) });
  };
  watch(
    () => reading.news,
    () => {
      if (files.value.length > 0) void lookAgain();
    },
  );
  const setSource = async ({ file, index }: OpenArticle, source: string): Promise<void> => {
    const own = sources.get(file.id) ?? file.seen?.articles.map((article) => article.source) ?? [];
    own[index] = source;
    sources.set(file.id, own);
    set(file.id, { seen: await (await reading.worker()).look(file.id, own) });
  };
  const close = (id: string): void => {
    files.value = files.value.filter((file) => file.id !== id);
    void reading.worker().then((worker) => worker.close(id));
  };

  const nameIn = ({ file, index }: Pick<OpenArticle, 'file' | 'index'>, find: Find): string =>
    `${file.id} ${index} ${findName(find)}`;
  const change = (of: OpenArticle, finds: readonly Find[], into: 'accepted' | 'refused' | 'open'): void => {
    const names = finds.map((find) => nameIn(of, find));
    const without = (set: ReadonlySet<string>) => new Set([...set].filter((name) => !names.includes(name)));
    accepted.value = into === 'accepted' ? new Set([...accepted.value, ...names]) : without(accepted.value);
    refused.value = into === 'refused' ? new Set([...refused.value, ...names]) : without(refused.value);
  };
  const stateOf = (of: OpenArticle, find: Find): 'accepted' | 'refused' | 'open' =>
    accepted.value.has(nameIn(of, find))
      ? 'accepted'
      : refused.value.has(nameIn(of, find))
        ? 'refused'
        : 'open';
  const acceptedOf = (of: OpenArticle): Find[] =>
    of.seen.finds.filter((find) => stateOf(of, find) === 'accepted');
  const articlesOf = (file: OpenFile): OpenArticle[] =>
    (file.seen?.articles ?? []).map((seen, index) => ({ file, index, seen }));

  const page = ({ file, index, seen }: OpenArticle): Promise<string> =>
    reading.worker().then((worker) => worker.page(file.id, index, toRaw(seen).finds));
  const compare = (of: OpenArticle): Promise<{ before: string; after: string }> =>
    reading.worker().then((worker) => worker.compare(of.file.id, of.index, acceptedOf(of)));
  const written = async (file: OpenFile): Promise<Uint8Array<ArrayBuffer>> =>
    new Uint8Array(await (await reading.worker()).write(file.id, articlesOf(file).map(acceptedOf)));
  const writeTo = async (handle: FileSystemFileHandle, bytes: Uint8Array<ArrayBuffer>): Promise<void> => {
    const stream = await handle.createWritable();
    await stream.write(bytes);
    await stream.close();
  };
  /**
   * Writes what was accepted over the original, and reads it anew.
   *
   * @returns what puts it back as it was
   * @throws Error where the file was changed elsewhere meanwhile, or cannot be written; putting it back does too
   */
  const saveOver = async (file: OpenFile): Promise<() => Promise<void>> => {
    const { handle, bytes: before } = file;
    if (!handle) throw new Error('This browser gave a copy of the file; save a copy in its place.');
    const put = async (expected: Uint8Array, bytes: Uint8Array<ArrayBuffer>) => {
      const now = new Uint8Array(await (await handle.getFile()).arrayBuffer());
      if (now.length !== expected.length || now.some((byte, i) => byte !== expected[i]))
        throw new Error(`${file.name} was changed elsewhere since it was opened. Open it again first.`);
      await writeTo(handle, bytes);
      // What was chosen belongs to the text as it was.
      const isOther = (name: string) => !name.startsWith(`${file.id} `);
      accepted.value = new Set([...accepted.value].filter(isOther));
      refused.value = new Set([...refused.value].filter(isOther));
      const read = await (await reading.worker()).open(file.id, file.name, bytes, file.seen?.encoding);
      set(file.id, { bytes, ...('says' in read ? { says: read.says } : { seen: read }) });
      await keepRead([file.id]);
    };
    const after = await written(file);
    await put(before, after);
    return () => put(after, before);
  };
  return {
    acceptedOf,
    articlesOf,
    change,
    close,
    compare,
    files,
    lookAgain,
    openFiles,
    openFolder,
    page,
    paste,
    readAs,
    saveOver,
    setSource,
    stateOf,
    waiting,
    written,
  };
});
