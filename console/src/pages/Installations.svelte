<script lang="ts">
	import { api, done, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Head from '../parts/Head.svelte';
	import Table from '../parts/Table.svelte';
	import { p } from '../router';
	import { List } from '../state/list.svelte';

	const list = new List<Schemas['InstallationOut']>((part) =>
		done(api.GET('/api/v1/installations', { params: { query: part } })),
	);
	void list.load();
</script>

<Head title="Installations" help={['afterwards', 'Looking again, changing, undoing']} />
<Table
	{list}
	usual="-since"
	what="installation"
	find="Application, account or address"
	key={(one) => one.id}
	columns={[
		{ name: 'application', title: 'Application', sort: 'application' },
		{ name: 'account', title: 'Account', sort: 'account' },
		{ name: 'address', title: 'Address', sort: 'address', wide: true },
		{ name: 'since', title: 'Since', sort: 'since' },
	]}
>
	{#snippet cell(one, column)}
		{#if column === 'application'}
			<a href={p('/installations/:id', { params: { id: one.id } })}>{one.application} {one.version}</a>
		{:else if column === 'account'}<a href={p('/accounts/:name', { params: { name: one.account } })}
				>{one.account}</a
			>
		{:else if column === 'address'}<span class="code">{one.address}</span>{#if one.replaced_by}
				<span class="quiet">replaced by {one.replaced_by}</span>{/if}{#if one.taken_back}
				<span class="quiet">taken back{one.taken_back.kept_in ? ', files and database kept' : ''}</span>{/if}
		{:else}{momentOf(one.created_at)}{/if}
	{/snippet}
	{#snippet empty()}
		<p class="quiet">Nothing stands yet. <a href={p('/jobs/new')}>Plan the first install</a></p>
	{/snippet}
</Table>
