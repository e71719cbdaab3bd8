import { marked, type Token, type Tokens } from 'marked';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Plugin } from 'vite';

/** Words in a line: plain, or with what is special about them. */
export type Words = (string | { kind: 'code' | 'strong' | 'em' | 'link'; words: Words; to?: string })[];
/** What a page of the manual is made of. Nothing of it is ever HTML. */
export type Block =
	| { kind: 'heading'; level: number; id: string; words: Words }
	| { kind: 'words'; words: Words }
	| { kind: 'code'; text: string }
	| { kind: 'list'; ordered: boolean; items: Block[][] }
	| { kind: 'table'; head: Words[]; rows: Words[][] };
export interface Leaf {
	name: string;
	kind: string;
	title: string;
	blocks: Block[];
}

const NAME = 'virtual:manual';
const idOf = (text: string): string =>
	text
		.toLowerCase()
		.replace(/[^\p{L}\p{N} -]/gu, '')
		.trim()
		.replace(/ /g, '-');
const plain = (words: Words): string =>
	words.map((w) => (typeof w === 'string' ? w : plain(w.words))).join('');

/** Where a link of the documentation leads in the console; "" where only the checkout has it. */
function target(href: string, names: Set<string>): string {
	if (href.startsWith('https://')) return href;
	const [, name = '', anchor = ''] = /^([\w-]+)\.md(#[\w-]+)?$/.exec(href) ?? [];
	if (href.startsWith('#')) return href;
	return names.has(name) ? `/manual/${name}${anchor}` : '';
}

function words(tokens: Token[], names: Set<string>): Words {
	return tokens.flatMap((token): Words => {
		const inner = 'tokens' in token && token.tokens ? token.tokens : undefined;
		switch (token.type) {
			case 'codespan':
				return [{ kind: 'code', words: [token.text as string] }];
			case 'strong':
			case 'em':
				return [{ kind: token.type, words: words(inner ?? [], names) }];
			case 'link': {
				const to = target(token.href as string, names);
				return to ? [{ kind: 'link', to, words: words(inner ?? [], names) }] : words(inner ?? [], names);
			}
			case 'image':
				return [];
			case 'br':
				return [' '];
			default:
				return inner ? words(inner, names) : [decoded((token as Tokens.Text).text ?? token.raw)];
		}
	});
}

const decoded = (text: string): string =>
	text
		.replace(/&lt;/g, '<')
		.replace(/&gt;/g, '>')
		.replace(/&quot;/g, '"')
		.replace(/&#39;/g, "'")
		.replace(/&amp;/g, '&');

function blocks(tokens: Token[], names: Set<string>): Block[] {
	return tokens.flatMap((token): Block[] => {
		switch (token.type) {
			case 'heading': {
				const said = words((token as Tokens.Heading).tokens, names);
				return [
					{ kind: 'heading', level: (token as Tokens.Heading).depth, id: idOf(plain(said)), words: said },
				];
			}
			case 'code':
				return [{ kind: 'code', text: (token as Tokens.Code).text }];
			case 'list': {
				const list = token as Tokens.List;
				return [
					{ kind: 'list', ordered: list.ordered, items: list.items.map((i) => blocks(i.tokens, names)) },
				];
			}
			case 'table': {
				const table = token as Tokens.Table;
				const cells = (row: Tokens.TableCell[]): Words[] => row.map((c) => words(c.tokens, names));
				return [{ kind: 'table', head: cells(table.header), rows: table.rows.map(cells) }];
			}
			case 'paragraph':
			case 'text': {
				const said = words((token as Tokens.Paragraph).tokens ?? [token], names);
				return plain(said).trim() ? [{ kind: 'words', words: said }] : [];
			}
			case 'blockquote':
				return blocks((token as Tokens.Blockquote).tokens, names);
			default:
				return [];
		}
	});
}

/** The documentation in docs/, in the order and under the kinds of its index. */
export function leaves(folder: string): Leaf[] {
	const names = new Set(readdirSync(folder).flatMap((f) => (f.endsWith('.md') ? [f.slice(0, -3)] : [])));
	const index = readFileSync(join(folder, 'README.md'), 'utf8');
	return index.split('\n\n').flatMap((paragraph) => {
		const kind = /^\*\*(.+?)\*\*/.exec(paragraph)?.[1];
		if (!kind) return [];
		return [...paragraph.matchAll(/\]\(([\w-]+)\.md\)/g)].map(([, name = '']) => {
			const all = blocks(marked.lexer(readFileSync(join(folder, `${name}.md`), 'utf8')), names);
			const first = all.find((b) => b.kind === 'heading');
			return { name, kind, title: first ? plain(first.words) : name, blocks: all };
		});
	});
}

/** `import manual from 'virtual:manual'`: rendered when the console is built. */
export function manual(folder: string): Plugin {
	return {
		name: 'manual',
		resolveId: (id) => (id === NAME ? `\0${NAME}` : undefined),
		load(id) {
			if (id !== `\0${NAME}`) return undefined;
			for (const file of readdirSync(folder)) if (file.endsWith('.md')) this.addWatchFile(join(folder, file));
			return `export default ${JSON.stringify(leaves(folder))}`;
		},
	};
}
