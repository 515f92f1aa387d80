/** Ends a command with the code it gives, or with 2 and one line on what went wrong. */
export const endWith = (work: Promise<number>, usage: string): void => {
  work.then(
    (code) => (process.exitCode = code),
    (error: unknown) => {
      const message = error instanceof Error ? error.message : String(error);
      const isUsage =
        error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS');
      console.error(`fernhop: ${isUsage ? `${message.split('. ')[0] ?? ''}. ${usage}` : message}`);
      process.exitCode = 2;
    },
  );
};
