import { hatch, compare } from "hatch-fold";
const N=20000, bad=+process.argv[2];
const source=JSON.stringify({people:Array.from({length:N},(_,i)=>({id:`P-${i}`,name:`Name ${i}`})),links:Array.from({length:5000},(_,i)=>({person:`P-${i}`,role:"x"}))});
const plan=`hatchfold: 1
sources: { s: { file: s.json } }
tables:
  people: { rows: people, key: id, label: name, columns: { id: id, name: name } }
  links: { rows: links, columns: { person: { at: person, refers: people }, role: role } }
`;
const {tables}=await hatch(source,{plan});
let k=0; tables.contents.set("links.csv",new TextEncoder().encode(tables.text("links.csv").replace(/,P-(\d+),/g,(m,d)=>k++<bad?`,Q-${d}x,`:m)));
let passes=0; const bytes=new TextEncoder().encode(source);
const src={name:"s.json",size:bytes.length,read:(a,b)=>Promise.resolve(bytes.subarray(a,b)),async *chunks(s=0){ if(s===0)passes++; yield bytes.subarray(s);}};
const t=Date.now(); const c=await compare(tables,{source:src}); console.log(bad,c.counts.problems,passes,"passes",Date.now()-t,"ms",c.problems[0]?.hint);
