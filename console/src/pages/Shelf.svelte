<script lang="ts">
	import { api, done, type Schemas } from '../api/calls';
	import { bytes, momentOf } from '../lib/say';
	import Drop from '../parts/Drop.svelte';
	import FromMakers from '../parts/FromMakers.svelte';
	import Head from '../parts/Head.svelte';
	import Table from '../parts/Table.svelte';
	import { p } from '../router';
	import { List } from '../state/list.svelte';

	type Release = Schemas['ReleaseOut'];
	const list = new List<Release>((part) => done(api.GET('/api/v1/releases', { params: { query: part } })));
	void list.load();
	let kept = $state.raw<Release | null>(null);

	function taken(release: Release): void {
		kept = release;
		void list.load();
	}
</script>

<Head title="Shelf" help={['shelf', 'How releases are read']} />
<div class="drop"><Drop kept={taken} /></div>
<div class="drop"><FromMakers kept={taken} /></div>
<div aria-live="polite">
	{#if kept}
		<p class="kept">
			<strong>{kept.name} {kept.version}</strong> stands on the shelf: {kept.files} files, {bytes(
				kept.unpacked_bytes,
			)} unpacked.
			<a href={p('/shelf/:sha256', { params: { sha256: kept.sha256 } })}>What was found in it</a> ·
			<a href={p('/jobs/new', { search: { release: kept.sha256 } })}>Plan an install</a>
		</p>
	{/if}
</div>
<Table
	{list}
	usual="-checked-in"
	what="release"
	find="Name, version, file or SHA-256"
	key={(one) => one.sha256}
	columns={[
		{ name: 'name', title: 'Release', sort: 'name' },
		{ name: 'version', title: 'Version', sort: 'version' },
		{ name: 'file', title: 'Archive' },
		{ name: 'files', title: 'Files', sort: 'files', right: true },
		{ name: 'size', title: 'Packed', sort: 'size', right: true },
		{ name: 'at', title: 'Checked in', sort: 'checked-in' },
	]}
>
	{#snippet cell(one, column)}
		{#if column === 'name'}<a href={p('/shelf/:sha256', { params: { sha256: one.sha256 } })}>{one.name}</a>
		{:else if column === 'version'}{one.version || 'unknown'}
		{:else if column === 'file'}<span class="code">{one.file_name}</span>
		{:else if column === 'files'}{one.files.toLocaleString('en')}
		{:else if column === 'size'}{bytes(one.size_bytes)}
		{:else}{momentOf(one.checked_in_at)}{/if}
	{/snippet}
	{#snippet empty()}<p class="quiet">
			The shelf is empty. The first archive you drop above stands here.
		</p>{/snippet}
</Table>

<style>
	.drop {
		margin-bottom: 1rem;
	}
	.kept {
		border-left: 4px solid var(--well);
		background: var(--card);
		padding: 0.5rem 0.9rem;
		margin-bottom: 1rem;
		overflow-wrap: anywhere;
	}
</style>
