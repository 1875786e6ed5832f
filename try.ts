import { readFileSync } from 'node:fs';
import { readCsv } from '@/core/formats/csv';
import { composeDevice } from '@/core/device/compose';
import { loadDevice } from '@/core/recipe/device';
const d='devices/corvane-c40/';
const p=readCsv('pinout.csv',readFileSync(d+'pinout.csv','utf8')), f=readCsv('functions.csv',readFileSync(d+'functions.csv','utf8'));
if(!p.ok||!f.ok) throw 1;
const desc=composeDevice(p.value,f.value,JSON.parse(readFileSync(d+'recipe.json','utf8')));
if(!desc.ok){console.log(desc.problems);process.exit()}
console.time('compile');const dev=loadDevice(desc.value);console.timeEnd('compile');
if(!dev.ok) console.log(dev.problems.slice(0,10)); else console.log(dev.value.fingerprint, dev.value.registers.all.length, JSON.stringify(desc.value).length);
import { derive } from '@/core/derive';
import { cTarget } from '@/core/codegen/c/target';
import { writeFileSync, mkdirSync } from 'node:fs';
if (dev.ok) {
 const plan = JSON.parse(readFileSync('/tmp/gen/plan.json','utf8'));
 for (let i=0;i<8;i++){ const t=performance.now(); const d=derive(dev.value, plan); const t2=performance.now(); if(!d.ok) throw d; const c=cTarget.generate(d.value); const t3=performance.now(); console.log((t2-t).toFixed(2),(t3-t2).toFixed(2)); if(i==7){ console.log(d.value.findings.map(f=>[f.severity,f.rule,f.message,f.remedies.map(r=>r.label)]), d.value.proof); mkdirSync('/tmp/gen/out',{recursive:true}); for(const f of c) writeFileSync('/tmp/gen/out/'+f.path,f.text);} }
}
