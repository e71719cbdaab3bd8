import { expect, test, vi } from 'vitest';

vi.stubGlobal('location', { origin: 'http://localhost' });
const { bodyOf } = await import('../state/fetch.svelte');
const plain = { address: ' https://makers.example/a.zip ', checksum: '', signature: '', key: '', signIn: '' };

test('a checksum is itself, or where a file of them is', () => {
	expect(bodyOf({ ...plain, checksum: 'ab12' })).toMatchObject({ checksum: 'ab12', checksum_address: '' });
	expect(bodyOf({ ...plain, checksum: 'https://makers.example/SUMS' })).toMatchObject({
		checksum: '',
		checksum_address: 'https://makers.example/SUMS',
	});
});

test('what signs in is read as headers, and blanks around the address do not count', () => {
	const body = bodyOf({ ...plain, signIn: 'Cookie: a=b: c\n\nAuthorization: Bearer x' });
	expect(body.headers).toEqual({ Cookie: 'a=b: c', Authorization: 'Bearer x' });
	expect(body.address).toBe('https://makers.example/a.zip');
});

test('a key may be given or published', () => {
	expect(bodyOf({ ...plain, key: '-----BEGIN PGP' })).toMatchObject({
		key: '-----BEGIN PGP',
		key_address: '',
	});
	expect(bodyOf({ ...plain, key: 'https://makers.example/key.asc' })).toMatchObject({ key: '' });
});
