import { describe, expect, it } from 'vitest';
import { leaves } from '../../manual';
import { search, sections } from './manual';

const manual = leaves('../docs');

describe('the manual', () => {
	it('has every kind, and every page that its index names', () => {
		expect([...new Set(manual.map((one) => one.kind))]).toEqual([
			'A tour',
			'How to',
			'Reference',
			'Why it is so',
		]);
		expect(manual.map((one) => one.name)).toEqual(
			expect.arrayContaining(['tour', 'howto', 'commands', 'errors', 'walk']),
		);
	});
	it('leads only to pages and places that are there', () => {
		const places = new Set(
			manual.flatMap((one) => [
				`/manual/${one.name}`,
				...sections(one.blocks).map((s) => `/manual/${one.name}#${s.id}`),
			]),
		);
		const links = [...JSON.stringify(manual).matchAll(/"to":"(\/manual[^"]*)"/g)].map((m) => m[1]);
		expect(links.length).toBeGreaterThan(20);
		expect(links.filter((to) => !places.has(to ?? ''))).toEqual([]);
	});
	it('finds the part that is about what was asked, its heading first', () => {
		expect(search(manual, 'highshelf job answer')[0]?.leaf.name).toBe('commands');
		expect(search(manual, 'packed for hosts').map((hit) => hit.leaf.name)).toContain('placing');
		expect(search(manual, 'no such words anywhere')).toEqual([]);
		expect(search(manual, '  ')).toEqual([]);
	});
});
