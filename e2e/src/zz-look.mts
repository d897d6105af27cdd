import { Browser } from './browser';
const url='http://127.0.0.1:4850';
const call=async (m:string,p:string,b?:object)=>{const r=await fetch(url+p,{method:m,headers:{'content-type':'application/json'},...(b?{body:JSON.stringify(b)}:{})}); const t=await r.text(); return t?JSON.parse(t):null;};
const sets=await call('GET','/api/sets'); const set=sets[0].id;
const presets=await call('GET','/api/presets');
const browser=await Browser.open();
try{
 await call('POST',`/api/sets/${set}/runs`,{presetIds:presets.slice(0,3).map((p:any)=>p.id)});
 await browser.driver.get(url+'/workers');
 await browser.says('Files a minute');
 await browser.driver.sleep(9000);
 await browser.picture('/tmp/pace/w1.png');
 await browser.click('Drain');
 await browser.driver.sleep(5000);
 await browser.picture('/tmp/pace/w2.png');
 const w=await call('GET','/api/workers');
 for(const x of w.workers) await call('PATCH',`/api/workers/${x.id}`,{drained:true});
 await browser.driver.sleep(6000);
 await browser.picture('/tmp/pace/w3.png');
 for(const x of w.workers) await call('PATCH',`/api/workers/${x.id}`,{drained:false});
 console.log(await browser.consoleErrors());
} finally { await browser.close?.(); await (browser as any).driver.quit?.().catch(()=>{}); }
