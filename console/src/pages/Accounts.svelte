<script lang="ts">
	import { api, done, type Schemas } from '../api/calls';
	import { momentOf } from '../lib/say';
	import Head from '../parts/Head.svelte';
	import Table from '../parts/Table.svelte';
	import { p } from '../router';
	import { List } from '../state/list.svelte';

	const list = new List<Schemas['AccountOut']>((part) =>
		done(api.GET('/api/v1/accounts', { params: { query: part } })),
	);
	void list.load();
</script>

<Head title="Accounts" help={['accounts', 'How accounts are added and checked']}>
	{#snippet aside()}
		<a class="btn btn-act plain" href={p('/accounts/new')}>Add an account</a>
		<a class="btn btn-lesser plain" href={p('/accounts/import')}>From a file</a>
	{/snippet}
</Head>
<Table
	{list}
	usual="name"
	what="account"
	find="Name, title, address or host"
	key={(one) => one.name}
	columns={[
		{ name: 'name', title: 'Name', sort: 'name' },
		{ name: 'title', title: 'Whose', sort: 'title' },
		{ name: 'transfer', title: 'Transfer', sort: 'transfer' },
		{ name: 'address', title: 'Address', sort: 'address' },
		{ name: 'checked', title: 'Checked', sort: 'checked' },
	]}
>
	{#snippet cell(one, column)}
		{#if column === 'name'}<a href={p('/accounts/:name', { params: { name: one.name } })}>{one.name}</a>
		{:else if column === 'title'}{one.title}
		{:else if column === 'transfer'}<span class="code">{one.transfer}</span>
		{:else if column === 'address'}<span class="code">{one.address}</span>
		{:else}{one.checked_at ? momentOf(one.checked_at) : 'never'}{/if}
	{/snippet}
	{#snippet empty()}
		<div class="card-paper none">
			<h2>No accounts yet</h2>
			<p>
				A hosting account is where files go (SFTP, FTPS or FTP), the address that shows them, and the panel
				that makes databases. All of it stands in the host's welcome letter.
			</p>
			<p>
				<a class="btn btn-act plain" href={p('/accounts/new')}>Add the first account</a>
				<a class="btn btn-lesser plain" href={p('/accounts/import')}>Many from a file</a>
			</p>
		</div>
	{/snippet}
</Table>

<style>
	.plain {
		text-decoration: none;
	}
	.none {
		max-width: 40rem;
		display: grid;
		gap: 0.6rem;
	}
</style>
