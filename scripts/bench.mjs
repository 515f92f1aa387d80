// Builds what is missing and runs one benchmark: node scripts/bench.mjs hop
import { build, install, runOrEnd } from './prepare.mjs';

const names = {
  hop: 'bench',
  visits: 'benchVisits',
  reconcile: 'benchReconcile',
  place: 'benchPlace',
  browser: 'benchBrowser',
  logs: 'benchLogs',
  decide: 'benchDecide',
};
const name = names[process.argv[2]];
if (name === undefined) {
  console.error(`Usage: node scripts/bench.mjs ${Object.keys(names).join('|')}`);
  process.exit(2);
}
install();
build();
runOrEnd(process.execPath, [`dist/server/${name}.js`]);
