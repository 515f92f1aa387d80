import {parse,preprocess,postprocess} from 'micromark';
import {gfm} from 'micromark-extension-gfm';
import {frontmatter} from 'micromark-extension-frontmatter';
const s=process.argv[2].replace(/\\n/g,'\n').replace(/\\t/g,'\t');
const ev=postprocess(parse({extensions:[gfm(),frontmatter(['yaml','toml'])]}).document().write(preprocess()(s,'utf8',true)));
let d=0;
for(const [k,t] of ev){ if(k==='exit')d--; if(k==='enter') console.log(' '.repeat(d)+t.type, t.start.offset,t.end.offset, JSON.stringify(s.slice(t.start.offset,t.end.offset))); if(k==='enter')d++;}
