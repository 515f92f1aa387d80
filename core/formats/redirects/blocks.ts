/** A statement of a configuration with blocks in braces, and the blocks it stands in, the outermost first. */
export interface Statement {
  readonly line: number;
  readonly words: readonly string[];
  readonly inside: readonly (readonly string[])[];
}

interface Token {
  readonly text: string;
  readonly line: number;
  /** It is a mark, and no word in quotes that looks like one. */
  readonly isMark: boolean;
}

/** Words, quoted words, and the marks that end statements and blocks. Comments begin with # where a word would begin. */
const tokensOf = (text: string, marks: RegExp): Token[] => {
  const tokens: Token[] = [];
  const form = /#[^\n]*|"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*'|\n|[^\s]+/g;
  let line = 1;
  for (const [found] of text.matchAll(form)) {
    if (found === '\n') tokens.push({ text: '\n', line: line++, isMark: true });
    else if (found.startsWith('#')) continue;
    else if (/^["']/.test(found)) {
      tokens.push({ text: found.slice(1, -1), line, isMark: false });
      line += found.split('\n').length - 1;
    } else
      // A brace of a placeholder such as {uri} or of an expression such as [a-z]{2} is part of its word.
      for (const part of found.split(marks))
        if (part !== '') tokens.push({ text: part, line, isMark: /^[{};]$/.test(part) });
  }
  return tokens;
};

const read = (tokens: readonly Token[], endsAtLine: boolean): Statement[] => {
  const statements: Statement[] = [];
  const inside: string[][] = [];
  let words: string[] = [];
  let line = 0;
  const end = () => {
    if (words.length > 0) statements.push({ line, words, inside: [...inside] });
    words = [];
  };
  for (const token of tokens) {
    if (token.isMark && token.text === '{') {
      inside.push(words);
      words = [];
    } else if (token.isMark && token.text === '}') {
      end();
      inside.pop();
    } else if (token.isMark && token.text === ';') end();
    else if (token.isMark) {
      if (endsAtLine) end();
    } else {
      if (words.length === 0) line = token.line;
      words.push(token.text);
    }
  }
  end();
  return statements;
};

/** Statements that end with `;`, as nginx has them. */
export const semicolonStatements = (text: string): Statement[] =>
  read(tokensOf(text, /(;(?=\}*$)|(?<=[;}]|^)\}(?=\}*$)|\{$)/), false);

/** Statements that end with their line, as Caddy has them. */
export const lineStatements = (text: string): Statement[] => read(tokensOf(text, /^([{}])$/), true);
