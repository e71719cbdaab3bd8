import { describe, expect, it } from 'vitest';
import { counted, grouped, type Line } from './survey';

const line = (topic: string, group: string, state: Line['state'] = 'fine'): Line => ({
	topic,
	group,
	title: topic,
	text: '',
	how: '',
	state,
	data: null,
});

describe('lines of a survey', () => {
	it('stand in their groups, in the order they came', () => {
		const groups = grouped([line('a', 'Login'), line('b', 'Login'), line('c', 'Site'), line('d', 'Login')]);
		expect(groups.map((g) => [g.name, g.lines.map((l) => l.topic)])).toEqual([
			['Login', ['a', 'b']],
			['Site', ['c']],
			['Login', ['d']],
		]);
		expect(grouped([])).toEqual([]);
	});

	it('are counted by what they want', () => {
		const lines = [line('a', 'X', 'heed'), line('b', 'X', 'bad'), line('c', 'X', 'heed'), line('d', 'X')];
		expect(counted(lines)).toEqual({ heed: 2, bad: 1, unknown: 0 });
	});
});
