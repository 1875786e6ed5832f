/**
 * EDIF 2 0 0 netlists. Cells that hold instances are expanded from the top cell down, each instance each time; nets that meet at a
 * port of a cell become one (union-find). What is left are instances of cells without contents: the parts of the board.
 */
import { LIMITS, limitText, overLimit } from '../../base/limits';
import { collectProblems, type Problem } from '../../base/problems';
import { fail, failWith, ok, type Result } from '../../base/result';
import type { Meter } from '../../base/text/scan';
import { type Netlist, NetlistPins } from './netlist';
import { type Branch, branchesOf, textsOf } from './tree/tree';

/** A name: what it is referred to by, in small letters, and what it was before it had to become an identifier. */
interface Name {
  id: string;
  text: string;
  /** Number of members of an array; 0 when it is none. */
  size: number;
}

interface Port extends Name {
  /** Pin number, where the cell says it. */
  designator: string | undefined;
}

interface Instance {
  name: Name;
  cell: string;
  designator: string | undefined;
  /** Port → pin number, where the instance says it. */
  pins: Map<string, string>;
  line: number;
}

/** A reference to a port: of an instance, or of the cell itself; one member of an array, or all. */
interface PortReference {
  port: string;
  instance: string | undefined;
  member: number | undefined;
  line: number;
}

interface CellNet {
  name: Name;
  joined: PortReference[];
}

interface Cell {
  key: string;
  ports: Map<string, Port>;
  instances: Map<string, Instance>;
  nets: CellNet[];
}

export function readEdif(file: string, root: Branch, meter: Meter): Result<Netlist> {
  const version = branchOf(root, 'edifversion');
  if (version && textsOf(version)[0] !== '2')
    return fail({
      place: `${file}:${version.line}:1`,
      message: `EDIF ${textsOf(version).join(' ')} is not read; 2 0 0 is`,
    });
  const cells = new Map<string, Cell>();
  for (const library of branchesOf(root).filter(is('library', 'external'))) {
    const id = nameOf(library.items[0])?.id ?? '';
    for (const cell of branchesOf(library).filter(is('cell'))) {
      const read = readCell(cell, id, meter);
      if (read) cells.set(read.key, read);
    }
  }
  const tops = topCells(root, cells);
  if (tops.length === 0) return fail({ place: file, message: 'has no cell with instances in it' });
  return new Expansion(file, cells, meter).expand(tops);
}

const is =
  (...heads: string[]) =>
  (branch: Branch): boolean =>
    heads.includes(branch.head.toLowerCase());

const branchOf = (branch: Branch, head: string): Branch | undefined => branchesOf(branch).find(is(head));

/** An identifier, `(rename id "text")`, `(name id …)`, `(array name 8)`. */
function nameOf(item: Branch | string | undefined): Name | undefined {
  if (item === undefined) return undefined;
  if (typeof item === 'string')
    return { id: item.toLowerCase(), text: plainText(item.replace(/^&/, '')), size: 0 };
  const [first, second] = item.items;
  const inner = nameOf(first);
  if (!inner) return undefined;
  switch (item.head.toLowerCase()) {
    case 'rename':
      return { ...inner, text: textOf(second) ?? inner.text };
    case 'name':
      return inner;
    case 'array': {
      const sizes = textsOf(item)
        .map(Number)
        .filter((size) => Number.isInteger(size) && size > 0);
      const size = sizes.reduce((product, each) => product * each, 1);
      return { ...inner, size: Math.min(size, LIMITS.netlistPins) };
    }
    default:
      return undefined;
  }
}

/** A text, as it stands or within `(stringDisplay "text" …)`. */
function textOf(item: Branch | string | undefined): string | undefined {
  if (item === undefined) return undefined;
  return typeof item === 'string' ? plainText(item) : textOf(item.items[0]);
}

/** `%34%` and `%34 37%` stand for characters by their codes. */
const plainText = (text: string): string =>
  text.replace(/%(\s*\d{1,3}(?:\s+\d{1,3})*\s*)%/g, (_all, codes: string) =>
    String.fromCharCode(...codes.trim().split(/\s+/).map(Number)),
  );

const designatorOf = (branch: Branch): string | undefined => {
  const designator = branchOf(branch, 'designator');
  return designator && textOf(designator.items[0])?.trim();
};

function readCell(branch: Branch, library: string, meter: Meter): Cell | undefined {
  const name = nameOf(branch.items[0]);
  if (!name) return undefined;
  const cell: Cell = { key: `${library}/${name.id}`, ports: new Map(), instances: new Map(), nets: [] };
  const netlistView = (view: Branch): boolean =>
    textOf(branchOf(view, 'viewtype')?.items[0])?.toLowerCase() === 'netlist';
  const views = branchesOf(branch).filter(is('view'));
  for (const view of views) {
    for (const port of branchesOf(view).filter(is('interface')).flatMap(branchesOf).filter(is('port'))) {
      const portName = nameOf(port.items[0]);
      if (portName) cell.ports.set(portName.id, { ...portName, designator: designatorOf(port) });
    }
  }
  // Of several views with contents one is taken, or all would be there twice.
  const contents = views
    .map((view) => ({ view, parts: branchesOf(view).filter(is('contents')).flatMap(branchesOf) }))
    .filter(({ parts }) => parts.some(is('instance', 'net', 'netbundle', 'page')));
  const chosen = contents.find(({ view }) => netlistView(view)) ?? contents[0];
  for (const part of chosen?.parts ?? [])
    for (const each of is('page')(part) ? branchesOf(part) : [part]) readContent(cell, each, meter);
  return cell;
}

function readContent(cell: Cell, branch: Branch, meter: Meter): void {
  meter.steps += 1 + branch.items.length;
  if (is('instance')(branch)) {
    const name = nameOf(branch.items[0]);
    const reference = branchOf(branch, 'viewref') ?? branch;
    const cellReference = branchOf(reference, 'cellref');
    if (!name || !cellReference) return;
    const library = branchOf(cellReference, 'libraryref');
    const libraryId = library
      ? (nameOf(library.items[0])?.id ?? '')
      : cell.key.slice(0, cell.key.indexOf('/'));
    const pins = new Map<string, string>();
    for (const port of branchesOf(branch).filter(is('portinstance'))) {
      const designator = designatorOf(port);
      const id = referenceOf(port.items[0])?.id;
      if (id !== undefined && designator) pins.set(id, designator);
    }
    cell.instances.set(name.id, {
      name,
      cell: `${libraryId}/${nameOf(cellReference.items[0])?.id ?? ''}`,
      designator: designatorOf(branch),
      pins,
      line: branch.line,
    });
  } else if (is('net')(branch)) {
    const name = nameOf(branch.items[0]);
    if (!name) return;
    const joined = branchesOf(branch)
      .filter(is('joined'))
      .flatMap((list) => branchesOf(list))
      .flatMap((item) => (is('portlist')(item) ? branchesOf(item) : [item]))
      .filter(is('portref'))
      .flatMap((reference) => portReference(reference) ?? []);
    meter.steps += joined.length;
    // The nets of several pages by one name are one net.
    cell.nets.push({ name, joined });
  } else if (is('netbundle')(branch)) {
    const list = branchOf(branch, 'listofnets');
    for (const net of list ? branchesOf(list) : []) readContent(cell, net, meter);
  }
}

/** `name` or `(member name 3)`. */
function referenceOf(
  item: Branch | string | undefined,
): { id: string; member: number | undefined } | undefined {
  if (typeof item === 'object' && is('member')(item)) {
    const id = nameOf(item.items[0])?.id;
    const member = Number(textsOf(item).at(-1));
    return id === undefined || !Number.isInteger(member) ? undefined : { id, member };
  }
  const id = nameOf(item)?.id;
  return id === undefined ? undefined : { id, member: undefined };
}

function portReference(branch: Branch): PortReference | undefined {
  const port = referenceOf(branch.items[0]);
  if (!port) return undefined;
  const instance = branchOf(branch, 'instanceref');
  return {
    port: port.id,
    member: port.member,
    instance: instance && nameOf(instance.items[0])?.id,
    line: branch.line,
  };
}

/** The cell that `(design …)` names; otherwise those with contents that are part of no other. */
function topCells(root: Branch, cells: ReadonlyMap<string, Cell>): Cell[] {
  const full = [...cells.values()].filter((cell) => cell.instances.size > 0);
  for (const design of branchesOf(root).filter(is('design'))) {
    const reference = branchOf(design, 'cellref');
    const library = reference && branchOf(reference, 'libraryref');
    const cell = reference && nameOf(reference.items[0])?.id;
    const top = full.find(
      ({ key }) =>
        key === `${library ? nameOf(library.items[0])?.id : ''}/${cell}` ||
        (!library && key.endsWith(`/${cell}`)),
    );
    if (top) return [top];
  }
  const used = new Set(full.flatMap((cell) => [...cell.instances.values()].map((instance) => instance.cell)));
  return full.filter(({ key }) => !used.has(key));
}

/** Pins of the board's parts on nodes; nodes that turn out to be one net are united. */
class Expansion {
  private readonly nodes: { parent: number; name: string; depth: number }[] = [];
  private readonly pins: { part: string; pin: string; name: string; node: number; line: number }[] = [];
  private readonly problems = collectProblems();
  private instances = 0;
  private joins = 0;
  private refused: Problem | undefined;

  constructor(
    private readonly file: string,
    private readonly cells: ReadonlyMap<string, Cell>,
    private readonly meter: Meter,
  ) {}

  expand(tops: readonly Cell[]): Result<Netlist> {
    for (const top of tops) this.expandCell(top, '', 0, new Map());
    if (this.refused) return fail(this.refused);
    if (this.problems.length > 0) return failWith(this.problems.list());
    const netlist = new NetlistPins();
    for (const { part, pin, name, node, line } of this.pins) {
      const net = this.nodes[this.rootOf(node)]?.name ?? '';
      if (!netlist.add(part, { pin, net, line, ...(name === pin ? {} : { name }) })) break;
    }
    return netlist.problem === undefined
      ? ok({ file: this.file, parts: netlist.parts })
      : fail({ place: this.file, message: netlist.problem });
  }

  /** `outside`: nodes of the nets around the cell, by port and member. */
  private expandCell(cell: Cell, path: string, depth: number, outside: ReadonlyMap<string, number>): void {
    if (depth > LIMITS.netlistDepth) {
      this.refused ??= {
        place: this.file,
        message: `cells hold each other deeper than ${limitText('netlistDepth')}`,
      };
      return;
    }
    /** Instance, port and member → node. */
    const inside = new Map<string, Map<string, number>>();
    const byName = new Map<string, number>();
    for (const net of cell.nets) {
      for (let i = 0; i < Math.max(1, net.name.size) && !this.refused; i++) {
        const member = net.name.size > 0 ? i : undefined;
        const text = path + memberText(net.name, member);
        const known = byName.get(`${net.name.id} ${member ?? ''}`);
        const node = known ?? this.addNode(text, depth);
        byName.set(`${net.name.id} ${member ?? ''}`, node);
        for (const reference of net.joined) this.join(cell, reference, member, node, inside, outside);
      }
    }
    for (const instance of cell.instances.values()) {
      if (++this.instances > LIMITS.netlistInstances)
        this.refused ??= { place: this.file, message: overLimit('netlistInstances', this.instances) };
      if (this.refused) return;
      this.expandInstance(instance, path, depth, inside.get(instance.name.id) ?? new Map());
    }
  }

  private join(
    cell: Cell,
    { port, instance: id, member, line }: PortReference,
    netMember: number | undefined,
    node: number,
    inside: Map<string, Map<string, number>>,
    outside: ReadonlyMap<string, number>,
  ): void {
    this.meter.steps++;
    if (++this.joins > LIMITS.netlistItems)
      this.refused ??= { place: this.file, message: overLimit('netlistItems', this.joins) };
    if (this.refused) return;
    const instance = id === undefined ? undefined : cell.instances.get(id);
    if (id !== undefined && !instance) {
      this.problems.push({ place: `${this.file}:${line}:1`, message: `there is no instance ${id} here` });
      return;
    }
    const ports = instance ? this.cells.get(instance.cell)?.ports : cell.ports;
    const size = ports?.get(port)?.size ?? 0;
    const index = member ?? (size > 0 ? netMember : undefined);
    const key = portKey(port, index);
    if (!instance) {
      const around = outside.get(key);
      if (around !== undefined) this.unite(around, node);
      return;
    }
    let nodes = inside.get(instance.name.id);
    if (!nodes) {
      nodes = new Map();
      inside.set(instance.name.id, nodes);
    }
    const before = nodes.get(key);
    // A port that is joined to two nets makes them one.
    if (before === undefined) nodes.set(key, node);
    else this.unite(before, node);
  }

  private expandInstance(
    instance: Instance,
    path: string,
    depth: number,
    nodes: ReadonlyMap<string, number>,
  ): void {
    const cell = this.cells.get(instance.cell);
    if (cell && cell.instances.size > 0) {
      this.expandCell(cell, `${path}${instance.name.text}/`, depth + 1, nodes);
      return;
    }
    const part = instance.designator ?? path + instance.name.text;
    for (const [key, node] of nodes) {
      const [id = '', memberOf] = key.split(' ');
      const port = cell?.ports.get(id);
      const member = memberOf ? Number(memberOf) : undefined;
      const name = memberText(port ?? { id, text: plainText(id.replace(/^&/, '')), size: 0 }, member);
      const pin = instance.pins.get(id) ?? port?.designator ?? name;
      this.pins.push({ part, pin, name, node, line: instance.line });
    }
  }

  private addNode(name: string, depth: number): number {
    if (this.nodes.length === LIMITS.netlistItems)
      this.refused ??= { place: this.file, message: overLimit('netlistItems', this.nodes.length + 1) };
    this.nodes.push({ parent: this.nodes.length, name, depth });
    return this.nodes.length - 1;
  }

  private rootOf(node: number): number {
    let at = node;
    for (let here = this.nodes[at]; here && here.parent !== at; here = this.nodes[at]) {
      const above = this.nodes[here.parent];
      if (above) here.parent = above.parent;
      at = here.parent;
      this.meter.steps++;
    }
    return at;
  }

  /** The name nearest to the top of the design stays. */
  private unite(a: number, b: number): void {
    const [rootA, rootB] = [this.rootOf(a), this.rootOf(b)];
    const [nodeA, nodeB] = [this.nodes[rootA], this.nodes[rootB]];
    if (!nodeA || !nodeB || rootA === rootB) return;
    if (nodeA.depth <= nodeB.depth) nodeB.parent = rootA;
    else nodeA.parent = rootB;
  }
}

const portKey = (port: string, member: number | undefined): string => `${port} ${member ?? ''}`;

/** `D[7:0]` or `D`, member 3 → `D3`. */
const memberText = ({ text }: Name, member: number | undefined): string =>
  member === undefined ? text : `${text.replace(/\[[^\]]*\]$/, '')}${member}`;
