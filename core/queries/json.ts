/** An answer as JSON: maps become objects, typed arrays become lists, what is not there is null. */
export const answerAsJson = (answer: unknown, indent?: number): string =>
  JSON.stringify(
    answer ?? null,
    (_, value: unknown) =>
      value instanceof Map
        ? Object.fromEntries(value)
        : ArrayBuffer.isView(value) && !(value instanceof DataView)
          ? Array.from(value as Uint32Array) // every other view is a typed array
          : value,
    indent,
  );
