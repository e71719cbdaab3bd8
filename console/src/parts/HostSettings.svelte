<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** What stands in the configuration files on the host, asked for by a button; each setting can be changed, the last change put back. */
	let { id }: { id: string } = $props();
	let files = $state.raw<Schemas['SettingsFileOut'][] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let busy = $state('');
	let open = $state('');
	let given = $state('');
	let told = $state('');

	const path = { number: '' };
	async function run(what: string, work: () => Promise<void>): Promise<void> {
		busy = what;
		fault = null;
		path.number = id;
		try {
			await work();
		} catch (reason) {
			fault = faultOf(reason);
		} finally {
			busy = '';
		}
	}
	const look = (): Promise<void> =>
		run('look', async () => {
			const found = await done(api.GET('/api/v1/installations/{number}/settings', { params: { path } }));
			files = found.items;
		});
	const change = (file: string, name: string): Promise<void> =>
		run('change', async () => {
			const body = { file, values: { [name]: given } };
			const made = await done(api.POST('/api/v1/installations/{number}/change', { params: { path }, body }));
			told = made.names.length
				? `${made.names.join(', ')} changed; ${made.seen.join(', ')}.`
				: 'It stood there already.';
			open = '';
			files = (await done(api.GET('/api/v1/installations/{number}/settings', { params: { path } }))).items;
		});
	const back = (): Promise<void> =>
		run('back', async () => {
			const made = await done(api.POST('/api/v1/installations/{number}/change/undo', { params: { path } }));
			told = `${made.names.join(', ')} in ${made.file} put back.`;
			files = (await done(api.GET('/api/v1/installations/{number}/settings', { params: { path } }))).items;
		});
	function edit(key: string, value: string): void {
		open = open === key ? '' : key;
		given = value;
		fault = null;
	}
</script>

<section class="card-paper" aria-labelledby="settings">
	<div class="head">
		<h2 id="settings">Settings on the host</h2>
		<div class="buttons">
			{#if files}
				<button
					class="btn btn-small btn-lesser"
					type="button"
					disabled={busy !== ''}
					onclick={() => void back()}>{busy === 'back' ? 'Putting back…' : 'Put the last change back'}</button
				>
			{/if}
			<button
				class="btn btn-small btn-lesser"
				type="button"
				disabled={busy !== ''}
				onclick={() => void look()}
				>{busy === 'look' ? 'Reading…' : files ? 'Read again' : 'Read the settings'}</button
			>
		</div>
	</div>
	{#if fault}<Fault {fault} />{/if}
	<div aria-live="polite">
		{#if told}<p class="small">{told}</p>{/if}
		{#if files?.length === 0}
			<p class="quiet small">No configuration file is known: the application keeps its settings elsewhere.</p>
		{:else if !files && busy === ''}
			<p class="quiet small">
				The application’s configuration files, as they stand there. Site and login are looked at before and
				after a change; when they break, it is put back.
			</p>
		{/if}
	</div>
	{#each files ?? [] as file (file.path)}
		<h3>
			<span class="code">{file.path}</span>
			<span class="quiet small">{file.format}{file.mode ? `, mode ${file.mode}` : ''}</span>
		</h3>
		<table>
			<thead>
				<tr><th scope="col">Setting</th><th scope="col">Value</th><td></td></tr>
			</thead>
			<tbody>
				{#each file.settings as one, row (`${one.name} ${String(row)}`)}
					{@const key = `${file.path} ${one.name} ${String(row)}`}
					<tr>
						<th scope="row" class="code">{one.name}</th>
						<td class="value">
							{#if one.secret}<span class="quiet">a secret</span>{:else}<span class="code">{one.value}</span
								>{/if}
						</td>
						<td class="act">
							<button
								class="btn btn-small btn-lesser"
								type="button"
								aria-expanded={open === key}
								aria-label="Change {one.name}"
								onclick={() => edit(key, one.secret ? '' : one.value)}>Change</button
							>
						</td>
					</tr>
					{#if open === key}
						<tr>
							<td colspan="3">
								<form
									onsubmit={(event) => {
										event.preventDefault();
										void change(file.path, one.name);
									}}
								>
									<Field
										label="{one.name} becomes"
										bind:value={given}
										type={one.secret ? 'password' : 'text'}
										hint={one.comment ?? ''}
										autocomplete="off"
									/>
									<button class="btn btn-act" type="submit" disabled={busy !== ''}
										>{busy === 'change' ? 'Changing, and looking at the site…' : 'Change it'}</button
									>
								</form>
							</td>
						</tr>
					{/if}
				{/each}
			</tbody>
		</table>
	{/each}
</section>

<style>
	.head,
	.buttons {
		display: flex;
		flex-wrap: wrap;
		justify-content: space-between;
		gap: 0.5rem 1rem;
	}
	h3 {
		margin-top: 0.75rem;
	}
	table {
		width: 100%;
		border-collapse: collapse;
	}
	th,
	td {
		text-align: left;
		vertical-align: top;
		padding: 0.25rem 0.75rem 0.25rem 0;
	}
	thead th {
		font-size: 0.8125rem;
		color: var(--soft);
		font-weight: 600;
	}
	tbody th {
		font-weight: 500;
	}
	.value,
	tbody th {
		overflow-wrap: anywhere;
	}
	.act {
		text-align: right;
		white-space: nowrap;
	}
	form {
		display: flex;
		gap: 0.75rem;
		align-items: end;
		flex-wrap: wrap;
	}
</style>
