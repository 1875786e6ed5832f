import { chromium } from '@playwright/test';
import { readFileSync } from 'node:fs';
const B = process.env.BASE ?? 'http://127.0.0.1:4600';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox','--disable-gpu'] });
const ctx = await b.newContext({ viewport: { width: 1280, height: 800 } });
const p = await ctx.newPage();
p.on('console', m => ['error','warning'].includes(m.type()) && console.log('NOISE', m.text().slice(0,300)));
p.on('pageerror', e => console.log('EXC', e.message));
const imp = async (name, change) => { let t = JSON.parse(readFileSync(`examples/${name}`,'utf8')); if (change) t = change(t) ?? t; const r = await p.request.post(`${B}/api/plans/import`, { data: { fileName: name, text: JSON.stringify(t) } }); const j = await r.json(); if(!j.id) console.log(JSON.stringify(j)); return j.id; };
const open = async (id, q='') => { await p.goto(`${B}/plans/${id}${q}`); await p.getByRole('listbox', { name: 'Nets' }).waitFor(); await p.waitForTimeout(400); };
const shot = n => p.screenshot({ path: `/tmp/shots/${n}.png` });
const S = {
  async place() { const id = await imp('frost-guard.plan.json', t => { for (const n of t.nets) if (!n.placement.held) n.placement = null; }); await open(id); await p.keyboard.press('Shift+P'); await p.getByRole('button',{name:'Apply'}).waitFor({timeout:20000}); await p.waitForTimeout(300); await shot('place'); await p.getByRole('button',{name:'Apply'}).click(); await p.waitForTimeout(600); await shot('placed'); },
  async impossible() { const id = await imp('frost-guard-faulty.plan.json'); await open(id); await p.keyboard.press('Shift+P'); await p.getByText('Cannot be placed').waitFor({timeout:20000}); await p.waitForTimeout(300); await shot('impossible'); },
  async demands() { const id = await imp('frost-guard.plan.json'); await open(id, '?select=net:lamp-red'); await shot('net'); await p.locator('[aria-label="Inspector"]').evaluate(e=>e.scrollTo(0,500)); await p.waitForTimeout(200); await shot('net2'); },
  async power() { const id = await imp('frost-guard.plan.json', t=>{ for (const n of t.nets) { if (n.name.startsWith('LAMP')) n.demands={load:{kind:'lamp',volts:3.3,dropVolts:2,ohms:220}}; if (/FAN_\d/.test(n.name)) n.demands={milliamps:4}; if (n.name==='POWER_HOLD') n.demands={milliamps:2.5}; if(/SET_S/.test(n.name)) n.demands={farPull:'up',farPullOhms:4700}; if(/VALVE_._/.test(n.name)) n.demands={milliamps:7}; } }); await open(id,'?view=power'); await p.waitForTimeout(500); await shot('power'); },
  async board() { const id = await imp('frost-guard.plan.json', t=>{ t.schematic={file:'guard.ipc',designator:'U1',pins:t.nets.map(n=>n)}; const dev=null; delete t.schematic; }); await open(id,'?view=board'); await shot('board0');
    const sched = await (await p.request.get(`${B}/api/plans/${id}/schedule?as=csv`)).text(); const rows=sched.split('\n').slice(1).filter(Boolean).map(r=>r.split(',')); let csv='net,part,pin\n'; for (const r of rows) { let n=r[2]||(/VDD|VSS|VDA/.test(r[1])?r[1]:''); if(n==='FAN_3')n='FAN_4'; else if(n==='FAN_4')n='FAN_3'; if(n==='LAMP_RED')n='LAMP_R'; if(n==='BUZZER')n=''; if(n) csv+=`${n},U1,${r[0]}\n`; } csv+='HEATER,U1,'+rows.find(r=>r[1]==='B9')[0]+'\n';
    await p.setInputFiles('input[type=file]', { name:'guard.csv', mimeType:'text/csv', buffer: Buffer.from(csv) }); await p.waitForTimeout(800); await shot('board'); },
  async waive() { const id = await imp('frost-guard.plan.json', t=>{ for(const n of t.nets) if(n.name==='RADIO_BUSY') delete n.demands; t.waivers=[{id:'w',rule:'floating-input',nets:['radio-busy'],pads:[],reason:'the radio module drives it whenever it has power',author:'mk',date:'2026-11-20'}]; for(const n of t.nets) if(n.name==='FAN_FAULT') n.settings={active:'low'}; }); await open(id); await p.getByRole('button',{name:'floating-input'}).first().click(); await p.waitForTimeout(300); await shot('waive'); },
  async several() { const id = await imp('frost-guard.plan.json'); await open(id); await p.locator('[data-name="FAN_1"]').click(); await p.locator('[data-name="FAN_4"]').click({modifiers:['Shift']}); await p.waitForTimeout(300); await shot('several'); },
  async typed() { const r = await p.request.post(`${B}/api/plans`, { data:{name:'Blank',device:'corvane-c40-80',package:'q100'} }); const {id}=await r.json(); await open(id); await p.getByRole('button',{name:'Usual circuits'}).click(); await p.waitForTimeout(300); await shot('templates'); await p.keyboard.press('Escape'); await p.locator('#add-nets').fill('mast: uart tx rx de 115200Hz\nfans: fan_1 fan_2 out low 4mA · fault irq low up'); await p.waitForTimeout(200); await shot('typed'); },
  async schedule() { const id = await imp('frost-guard.plan.json'); await p.goto(`${B}/plans/${id}/schedule`); await p.waitForTimeout(300); await shot('schedule'); const r=await p.request.get(`${B}/api/plans/${id}/schedule?as=svg`); const {writeFileSync}=await import('node:fs'); writeFileSync('/tmp/shots/pkg.svg', await r.text()); await p.setViewportSize({width:1100,height:900}); await p.setContent(await r.text()); await shot('svg'); },
  async candidates() { const id = await imp('frost-guard.plan.json'); await open(id,'?select=net:mast-tx'); await p.keyboard.press('m'); await p.waitForTimeout(300); await shot('candidates'); },
  async plan() { const id = await imp('frost-guard.plan.json'); await open(id); await shot('plan'); },
};
const { mkdirSync } = await import('node:fs'); mkdirSync('/tmp/shots',{recursive:true});
if (process.env.DARK) await ctx.addInitScript(() => localStorage.setItem('mavrek:theme','dark'));
if (process.env.W) await p.setViewportSize({width:Number(process.env.W),height:800});
for (const n of process.argv.slice(2)) { try { await S[n](); } catch (e) { console.log(n, 'FAILED', e.message.slice(0,400)); await shot(n+'-fail'); } }
await b.close();
