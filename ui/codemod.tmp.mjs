import { parse } from 'svelte/compiler';
import MagicString from 'magic-string';
import fs from 'fs'; import path from 'path';
const [file, cls, out, mode] = process.argv.slice(2); // mode: id | none
const src = fs.readFileSync(file, 'utf8');
const ast = parse(src, { modern: true });
const S = ast.instance.content;
const top = new Map(); // name -> node
const isCall=(n,names)=>n&&n.type==='CallExpression'&&((n.callee.type==='Identifier'&&names.includes(n.callee.name))||(n.callee.type==='MemberExpression'&&n.callee.object.type==='Identifier'&&names.includes(n.callee.object.name)));
const keepInPage=[], move=[], imports=[], types=[];
for (const n of S.body) {
  if (n.type==='ImportDeclaration') imports.push(n);
  else if (n.type==='TSTypeAliasDeclaration'||n.type==='TSInterfaceDeclaration') types.push(n);
  else if (n.type==='VariableDeclaration') {
    const d=n.declarations;
    if (d.length===1 && d[0].id.type==='Identifier' && !isCall(d[0].init,['$props'])) { top.set(d[0].id.name,n); move.push(n); }
    else keepInPage.push(n);
  } else if (n.type==='FunctionDeclaration') { top.set(n.id.name,n); move.push(n); }
  else keepInPage.push(n);
}
const skip=new Set((process.env.SKIP||'').split(',').filter(Boolean)); // names that stay in the page
for (const k of skip) { const n=top.get(k); if(n){ top.delete(k); move.splice(move.indexOf(n),1); keepInPage.push(n);} }
// collect identifier references (respecting scopes)
function patternNames(p,outs=[]){ if(!p) return outs; switch(p.type){case'Identifier':outs.push(p.name);break;case'ObjectPattern':p.properties.forEach(q=>patternNames(q.type==='RestElement'?q.argument:q.value,outs));break;case'ArrayPattern':p.elements.forEach(q=>patternNames(q,outs));break;case'AssignmentPattern':patternNames(p.left,outs);break;case'RestElement':patternNames(p.argument,outs);break;} return outs;}
const refs=[]; // {node, kind}
function declared(block){ const names=[]; for(const n of block){ if(n.type==='VariableDeclaration') n.declarations.forEach(d=>patternNames(d.id,names)); if(n.type==='FunctionDeclaration') names.push(n.id.name); } return names; }
function walk(n,scope,parent,key){
  if(!n||typeof n!=='object') return;
  if(Array.isArray(n)) { n.forEach(x=>walk(x,scope,parent,key)); return; }
  if(!n.type) return;
  switch(n.type){
    case 'Identifier': if(top.has(n.name)&&!scope.has(n.name)) refs.push({node:n,kind:'id'}); return;
    case 'MemberExpression': walk(n.object,scope,n,'object'); if(n.computed) walk(n.property,scope,n,'property'); return;
    case 'Property':
      if(n.shorthand && n.value.type==='Identifier'){ if(parent&&parent.type==='ObjectPattern'){ if(top.has(n.value.name)&&!scope.has(n.value.name)) refs.push({node:n.value,kind:'short'}); } else if(top.has(n.value.name)&&!scope.has(n.value.name)) refs.push({node:n.value,kind:'short'}); return; }
      if(n.computed) walk(n.key,scope,n,'key'); walk(n.value,scope,n,'value'); return;
    case 'ObjectPattern': n.properties.forEach(p=>walk(p,scope,n,'properties')); return;
    case 'FunctionDeclaration': case 'FunctionExpression': case 'ArrowFunctionExpression': {
      const sc=new Set(scope); n.params.forEach(p=>patternNames(p).forEach(x=>sc.add(x)));
      n.params.forEach(p=>{ if(p.type==='AssignmentPattern') walk(p.right,sc,p,'right'); });
      if(n.body.type==='BlockStatement'){ declared(n.body.body).forEach(x=>sc.add(x)); n.body.body.forEach(s=>walk(s,sc,n.body,'body')); } else walk(n.body,sc,n,'body'); return; }
    case 'BlockStatement': { const sc=new Set(scope); declared(n.body).forEach(x=>sc.add(x)); n.body.forEach(s=>walk(s,sc,n,'body')); return; }
    case 'CatchClause': { const sc=new Set(scope); patternNames(n.param).forEach(x=>sc.add(x)); walk(n.body,sc,n,'body'); return; }
    case 'ForOfStatement': case 'ForInStatement': { const sc=new Set(scope); if(n.left.type==='VariableDeclaration') n.left.declarations.forEach(d=>patternNames(d.id).forEach(x=>sc.add(x))); else walk(n.left,sc,n,'left'); walk(n.right,scope,n,'right'); walk(n.body,sc,n,'body'); return; }
    case 'VariableDeclarator': if(n.init) walk(n.init,scope,n,'init'); return;
    case 'TSTypeAnnotation': case 'TSTypeParameterInstantiation': case 'TSTypeReference': return;
    // svelte
    case 'EachBlock': { walk(n.expression,scope,n,'expression'); const sc=new Set(scope); if(n.context) patternNames(n.context).forEach(x=>sc.add(x)); if(n.index) sc.add(n.index); if(n.key) walk(n.key,sc,n,'key'); frag(n.body,sc); if(n.fallback) frag(n.fallback,scope); return; }
    case 'SnippetBlock': { const sc=new Set(scope); n.parameters.forEach(p=>patternNames(p).forEach(x=>sc.add(x))); frag(n.body,sc); return; }
    case 'AwaitBlock': { walk(n.expression,scope,n,'expression'); if(n.pending) frag(n.pending,scope); if(n.then){const sc=new Set(scope); if(n.value) patternNames(n.value).forEach(x=>sc.add(x)); frag(n.then,sc);} return; }
    case 'Fragment': frag(n,scope); return;
    case 'Attribute': { if(Array.isArray(n.value)) n.value.forEach(v=>walk(v,scope,n,'value')); else if(n.value&&n.value!==true){ const e=n.value; if(e.type==='ExpressionTag'&&e.expression.type==='Identifier'&&e.expression.name===n.name&&src[n.start]==='{'){ if(top.has(n.name)&&!scope.has(n.name)) refs.push({node:n,kind:'attrshort',name:n.name}); } else walk(e,scope,n,'value'); } return; }
    case 'BindDirective': case 'ClassDirective': case 'StyleDirective': { const e=n.expression; if(e&&e.type==='Identifier'&&e.name===n.name&&src.slice(n.start,n.end).indexOf('=')<0){ if(top.has(e.name)&&!scope.has(e.name)) refs.push({node:n,kind:'dirshort',name:e.name}); } else if(e) walk(e,scope,n,'expression'); else if(n.value) walk(n.value,scope,n,'value'); return; }
    case 'SpreadAttribute': walk(n.expression,scope,n,'expression'); return;
    case 'ConstTag': walk(n.declaration,scope,n,'declaration'); return;
  }
  for(const k of Object.keys(n)){ if(['type','start','end','loc','leadingComments','trailingComments','typeAnnotation','typeArguments','typeParameters','returnType','name_loc','metadata'].includes(k)) continue; const v=n[k]; if(v&&typeof v==='object') walk(v,scope,n,k); }
}
function frag(f,scope){ const sc=new Set(scope); for(const c of f.nodes) if(c.type==='ConstTag') c.declaration.declarations.forEach(d=>patternNames(d.id).forEach(x=>sc.add(x))); for(const c of f.nodes) if(c.type==='SnippetBlock') sc.add(c.expression.name); f.nodes.forEach(c=>walk(c,sc,f,'nodes')); }
S.body.forEach(n=>walk(n,new Set(),S,'body')); frag(ast.fragment,new Set());
// heads etc are in fragment
const inMove=(node)=>move.some(m=>node.start>=m.start&&node.end<=m.end);
const ms=new MagicString(src);
for(const r of refs){ const nm=r.name||r.node.name; const pre=inMove(r.node)?'this.':'shown.';
  if(r.kind==='id'){ // skip declaration ids
    ms.overwrite(r.node.start,r.node.start+nm.length,pre+nm);
  } else if(r.kind==='short') ms.overwrite(r.node.start,r.node.end,`${nm}: ${pre}${nm}`);
  else if(r.kind==='attrshort') ms.overwrite(r.node.start,r.node.end,`${nm}={${pre}${nm}}`);
  else if(r.kind==='dirshort') ms.appendLeft(r.node.end,`={${pre}${nm}}`);
}
const text=(a,b)=>{ const c=ms.clone(); return c.slice(a,b); };
const LEAD=/(\n\t*\/\*\*(?:(?!\*\/)[\s\S])*\*\/[ \t]*\n?[ \t]*|\n\t*\/\/[^\n]*\n[ \t]*)$/;
function lead(n){ const m=src.slice(0,n.start).match(LEAD); return m? m[1].trim()+'\n':''; }
let body='';
for(const n of move){
  const c=lead(n);
  if(n.type==='FunctionDeclaration'){
    const params=src.slice(n.params.length?n.params[0].start:n.body.start, n.params.length?n.params[n.params.length-1].end:n.body.start);
    const sig=src.slice(n.start,n.body.start); const m=sig.match(/^(async )?function \w+(<[^>]*>)?\(([\s\S]*)\)(\s*:\s*[\s\S]+)?\s*$/);
    const a=m[1]||''; const g=m[2]||''; let ps=m[3];
    // defaults may reference: take magic text
    if(n.params.length) ps=text(n.params[0].start,n.params[n.params.length-1].end); else ps='';
    body+=`\n${c}${n.id.name} = ${a}${g}(${ps})${m[4]||''} => ${text(n.body.start,n.body.end)};\n`;
  } else {
    const d=n.declarations[0]; const ann=d.id.typeAnnotation?src.slice(d.id.typeAnnotation.start,d.id.typeAnnotation.end):'';
    if(process.env.CTOR&&process.env.CTOR.split(',').includes(d.id.name)) continue;
    body+=`${c}${d.id.name}${ann}${d.init?` = ${text(d.init.start,d.init.end)}`:''};\n`;
  }
}
const impText=imports.map(i=>src.slice(i.start,i.end)).join('\n');
const typText=types.map(t=>'export '+src.slice(t.start,t.end)).join('\n');
const ctor = mode==='id' ? `constructor(readonly id: string) {}\n` : '';
fs.writeFileSync(out, `${impText}\n\n${typText}\n\n/** TODO */\nexport class ${cls} {\n${ctor}${body}}\n`);
// page
for(const n of move){ const c=lead(n); const before=src.slice(0,n.start); let a=before.replace(LEAD,'').length; if(!c) a=n.start; ms.remove(a,n.end); if(src[n.end]===';') ms.remove(n.end,n.end+1); }
for(const t of types) ms.remove(t.start,t.end);
fs.writeFileSync(file, ms.toString());
console.log(cls,[...top.keys()].join(' '));
