import { describe, expect, it } from 'vitest';
import { compose, nameFrom, parse } from './transfer';

describe('transfer addresses', () => {
	it.each([
		{ kind: 'sftp', host: 'files.saltmarsh.example', port: '22', login: 'sm20417' },
		{ kind: 'ftps', host: '127.0.0.1', port: '28421', login: 'keeper@choir.saltmarsh.example' },
		{ kind: 'ftps-implicit', host: 'files.saltmarsh.example', port: '990', login: 'regatta' },
		{ kind: 'ftp', host: 'fe80::1', port: '2121', login: 'a:b/c#d?e%f' },
	] as const)('$login comes back from its own address', (transfer) => {
		expect(parse(compose(transfer))).toEqual(transfer);
	});

	it('takes the usual port when none is given', () => {
		expect(compose({ kind: 'ftps', host: ' ftp.saltmarsh.example ', port: '', login: ' sm1 ' })).toBe(
			'ftps://sm1@ftp.saltmarsh.example:21',
		);
	});

	it('begins empty with what it cannot read', () => {
		expect(parse('gopher://x')).toEqual({ kind: 'sftp', host: '', port: '22', login: '' });
	});
});

describe('short names', () => {
	it.each([
		['Saltings Choir', 'saltings-choir'],
		['  Übersee-Fähre & Söhne!  ', 'ubersee-fahre-sohne'],
		['潮', ''],
		['a'.repeat(39) + ' b', 'a'.repeat(39)],
	])('%s', (title, name) => {
		expect(nameFrom(title)).toBe(name);
	});
});
