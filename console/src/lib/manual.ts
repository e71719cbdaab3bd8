import type { Block, Leaf, Words } from '../../manual';

export interface Section {
	id: string;
	title: string;
	text: string;
}
export interface Hit {
	leaf: Leaf;
	id: string;
	title: string;
	around: string;
}
const AROUND = 90;
export const MOST_HITS = 40;

const plain = (words: Words): string =>
	words.map((w) => (typeof w === 'string' ? w : plain(w.words))).join('');
const textOf = (block: Block): string => {
	switch (block.kind) {
		case 'code':
			return block.text;
		case 'list':
			return block.items.map((item) => item.map(textOf).join(' ')).join(' ');
		case 'table':
			return [block.head, ...block.rows].map((row) => row.map(plain).join(' ')).join(' ');
		default:
			return plain(block.words);
	}
};

/** A page cut at its headings, for those who search. */
export function sections(all: Block[]): Section[] {
	const found: Section[] = [];
	for (const block of all) {
		if (block.kind === 'heading') found.push({ id: block.id, title: plain(block.words), text: '' });
		else if (found.length) (found.at(-1) as Section).text += ` ${textOf(block)}`;
	}
	return found.map((s) => ({ ...s, text: s.text.replace(/\s+/g, ' ').trim() }));
}

/** The sections that have all the words, those with one in their heading first. */
export function search(leaves: Leaf[], wanted: string): Hit[] {
	const words = wanted.toLowerCase().split(/\s+/).filter(Boolean);
	if (!words.length) return [];
	const found: (Hit & { rank: number })[] = [];
	for (const leaf of leaves)
		for (const { id, title, text } of sections(leaf.blocks)) {
			const [head, body] = [`${leaf.title} ${title}`.toLowerCase(), text.toLowerCase()];
			if (!words.every((w) => head.includes(w) || body.includes(w))) continue;
			const rank = words.filter((w) => title.toLowerCase().includes(w)).length;
			const at = Math.max(0, body.indexOf(words.find((w) => body.includes(w)) ?? '') - AROUND / 2);
			const cut = text.slice(at, at + 2 * AROUND);
			const around = `${at ? '…' : ''}${cut}${at + cut.length < text.length ? '…' : ''}`;
			found.push({ leaf, id, title, around, rank });
		}
	return found.sort((a, b) => b.rank - a.rank).slice(0, MOST_HITS);
}
