<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { counted } from '../lib/say';
	import Fault from '../parts/Fault.svelte';
	import Head from '../parts/Head.svelte';
	import { navigate, p } from '../router';

	const EXAMPLE =
		'name,title,transfer,password,address\nmill,Tide Mill,sftp://mill@files.saltmarsh.example:22,…,https://mill.saltmarsh.example/';
	const id = $props.id();
	let text = $state('');
	let file = $state('');
	let found = $state.raw<Schemas['ImportOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	let busy = $state(false);

	async function read(given: File | undefined): Promise<void> {
		if (!given) return;
		text = await given.text();
		file = given.name;
		await look(false);
	}

	async function look(keep: boolean): Promise<void> {
		busy = true;
		fault = null;
		try {
			found = await done(api.POST('/api/v1/accounts/import', { body: { text, keep } }));
			if (found.kept) await navigate('/accounts');
		} catch (reason) {
			[found, fault] = [null, faultOf(reason)];
		} finally {
			busy = false;
		}
	}
</script>

<Head
	title="Accounts from a file"
	above="Accounts"
	up={p('/accounts')}
	help={['accounts', 'What the columns mean']}
>
	<p class="quiet">
		A CSV file with a heading line, one account a line. It is looked through first; nothing is kept while
		there is a single fault, and nothing is contacted.
	</p>
</Head>
<form
	class="card-paper rows"
	onsubmit={(event) => {
		event.preventDefault();
		void look(false);
	}}
	ondragover={(event) => event.preventDefault()}
	ondrop={(event) => {
		event.preventDefault();
		void read(event.dataTransfer?.files[0]);
	}}
>
	<div>
		<label class="label" for="{id}-text">The lines of the file{file ? `, from ${file}` : ''}</label>
		<textarea
			id="{id}-text"
			class="field code"
			rows="7"
			bind:value={text}
			oninput={() => ([found, file] = [null, ''])}
			wrap="off"
			spellcheck="false"
			autocomplete="off"
			placeholder={EXAMPLE}></textarea>
		<p class="small quiet">
			Needed: name, transfer, address, and password or key. Others are title, root (looked for when left out),
			reach, panel, panel_login, panel_password, database_host, email, helper (yes or no). Commas, semicolons
			or tabs.
		</p>
	</div>
	<div class="ways">
		<button class="btn btn-act" type="submit" disabled={busy || !text.trim()}
			>{busy ? 'Reading…' : 'Look through it'}</button
		>
		<label class="choose" for="{id}-file">choose a file</label>
		<input
			id="{id}-file"
			class="sr-only"
			type="file"
			accept=".csv,.txt,.tsv,text/csv"
			onchange={(event) => void read(event.currentTarget.files?.[0])}
		/>
		<span class="small quiet">or drop one here</span>
	</div>
</form>
<div aria-live="polite" class="said">
	{#if fault}<Fault {fault} />{/if}
	{#if found?.faults.length}
		<h2>{counted(found.faults.length, 'fault')}: nothing is kept</h2>
		<ul class="lines faults">
			{#each found.faults as one, index (index)}
				<li><span>line {one.line}</span><span class="code">{one.column}</span><span>{one.message}</span></li>
			{/each}
		</ul>
	{:else if found}
		<h2>{counted(found.rows.length, 'account')}, no faults</h2>
		<ul class="lines">
			{#each found.rows as one (one.line)}
				<li>
					<span>{one.name}</span><span class="code">{one.transfer}</span><span class="code"
						>{one.address}</span
					>
				</li>
			{/each}
		</ul>
		<p>
			<button class="btn btn-act" type="button" disabled={busy} onclick={() => void look(true)}
				>Keep {counted(found.rows.length, 'account')}</button
			>
		</p>
	{/if}
</div>

<style>
	.ways {
		display: flex;
		flex-wrap: wrap;
		gap: 0.4rem 1rem;
		align-items: center;
	}
	.choose {
		text-decoration: underline;
		cursor: pointer;
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
	}
	.ways:has(input:focus-visible) .choose {
		outline: 2px solid var(--act);
		outline-offset: 2px;
	}
	.said {
		margin-top: 1rem;
		display: grid;
		gap: 0.7rem;
	}
	.lines {
		background: var(--card);
		border: 1px solid var(--line);
	}
	.lines li {
		display: grid;
		grid-template-columns: minmax(5rem, 8rem) minmax(6rem, 1fr) minmax(0, 2fr);
		gap: 0.1rem 1rem;
		padding: 0.35rem 0.9rem;
		border-bottom: 1px solid var(--line);
		overflow-wrap: anywhere;
	}
	.faults li {
		grid-template-columns: 4rem 9rem minmax(0, 1fr);
	}
	.label {
		display: block;
		font-weight: 600;
		margin-bottom: 0.2rem;
	}
	.lines li:last-child {
		border-bottom: 0;
	}
	@media (max-width: 620px) {
		.lines li {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
