import { survey, hatch, compare, fold } from "hatch-fold";
const what=process.argv[2], n=+process.argv[3];
const make={
 attrs:()=>`<r><s ${Array.from({length:n},(_,i)=>`a${i}="${i}"`).join(" ")}/><s a1="x"/></r>`,
 ns:()=>Array.from({length:n},(_,i)=>`<p${i}:e xmlns:p${i}="urn:${i}">`).join("")+"x"+Array.from({length:n},(_,i)=>`</p${n-1-i}:e>`).join(""),
 deep:()=>"<e>".repeat(n)+"x"+"</e>".repeat(n),
 key:()=>JSON.stringify({s:[{["k".repeat(n)]:"a"},{["k".repeat(n)]:"b"}]}),
 keys:()=>JSON.stringify({s:Array.from({length:20},(_,i)=>({code:"x".repeat(n)+i}))}),
 commas:()=>",".repeat(n)+"\n"+",".repeat(n)+"\n",
 cell:()=>"a,b\n1,"+"x".repeat(n)+"\n2,y\n",
 cols:()=>"["+Array.from({length:200},(_,r)=>"{"+Array.from({length:n},(_,i)=>`"c${i}":"v${(r*7+i)%97}"`).join(",")+"}").join(",")+"]",
 colsdiff:()=>"["+Array.from({length:2000},(_,r)=>"{"+Array.from({length:n/100},(_,i)=>`"c${(r*13+i*7)%n}":"v${(r*7+i)%97}"`).join(",")+"}").join(",")+"]",
};
const src=make[what]();
const name={attrs:"x.xml",ns:"x.xml",deep:"x.xml",commas:"x.csv",cell:"x.csv"}[what]??"x.json";
const say=(l,t)=>console.log(what,n,l,Date.now()-t,"ms",Math.round(process.resourceUsage().maxRSS/1e3),"MB");
for (const [l,f] of [["survey",()=>survey(src,{name})],["hatch",()=>hatch(src,{name})]]) { const t=Date.now(); try { const r=await f(); say(l,t); if(l==="hatch"){const t2=Date.now(); await fold(r.tables,{source:src,name}); say("fold",t2);} } catch(e){ console.log(String(e).slice(0,150)); say(l,t);} }
