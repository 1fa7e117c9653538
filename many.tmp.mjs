import { hatch, compare, fold } from "hatch-fold";
const N=+process.argv[2]||130000, what=process.argv[3]||"changed";
const rec=Array.from({length:N},(_,i)=>({code:`S-${i}`,name:`Station ${i}`,n:i%90+0.5, cat:"00"+i}));
const source=JSON.stringify({stations:rec});
const {tables}=await hatch(source); const t0=Date.now();
let s=tables.text("stations.csv");
if(what==="changed") s=s.replaceAll(",Station ",",Tower ");
if(what==="added") s+=Array.from({length:N},(_,i)=>`,,N-${i},New ${i},1,7\r\n`).join("");
if(what==="removed") s=s.replace(/\r\n(\w+),,/g,"\r\n$1,remove,");
if(what==="healed") s=s.replace(/,00(\d+)\r\n/g,(m,d)=>`,${+d}\r\n`);
if(what==="bad") s=s.replace(/\.5,/g,".five,");
if(what==="copied") {const m=/\r\n(\w+),/.exec(s)[1]; s=s.replace(/\r\n\w+,/g,`\r\n${m},`);}
tables.contents.set("stations.csv",new TextEncoder().encode(s));
const c=await compare(tables,{source});
console.log(what,JSON.stringify(c.counts),(Date.now()-t0)+" ms", Math.round(process.memoryUsage().rss/1e6)+" MB", c.problems[0]?.message?.slice(0,200));
try { const f=await fold(tables,{source}); console.log("folded",f.size,(Date.now()-t0)+" ms", Math.round(process.resourceUsage().maxRSS/1e3)+" MB");} catch(e){console.log(String(e).slice(0,200))}
