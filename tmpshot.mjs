import { chromium } from 'playwright-core';
import { readFileSync } from 'fs';
const key=readFileSync('/tmp/demo/key','utf8').trim();
const b=await chromium.launch({executablePath:'/usr/bin/chromium',args:['--no-sandbox','--disable-gpu']});
const shots=JSON.parse(process.argv[2]);
for (const {path,name,dark,phone,wait} of shots){
 const c=await b.newContext({viewport:phone?{width:390,height:844}:{width:1280,height:800},isMobile:!!phone,hasTouch:!!phone,colorScheme:dark?'dark':'light'});
 const p=await c.newPage();
 await p.goto((path.startsWith('http')?'':'http://localhost:4700')+path+(path.startsWith('http')?'':'#key='+key));
 await p.waitForTimeout(wait??5000);
 await p.screenshot({path:'/tmp/'+name+'.png'});
 await c.close();
}
await b.close();
