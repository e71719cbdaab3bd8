<script lang="ts">
	import type { LetterReading } from '../state/letter.svelte';
	import Fault from './Fault.svelte';

	/** Paste the letter, read it, and see what was found where. */
	let { letter }: { letter: LetterReading } = $props();
	const id = $props.id();
	let shown = $state(false);
	const sure = (share: number): string => `${String(Math.round(share * 100))} % sure`;

	const WORDS: Record<string, string> = {
		title: 'Title',
		'transfer.kind': 'Kind of transfer',
		'transfer.host': 'Server',
		'transfer.port': 'Port',
		'transfer.login': 'Login',
		'transfer.password': 'Password',
		root: 'Document root',
		address: 'Address',
		temporary: 'Temporary address',
		'web.host': 'Web server',
		panel: 'Panel address',
		'panel.login': 'Panel login',
		'panel.password': 'Panel password',
		customer: 'Customer number',
		'database.host': 'Database server',
		'database.port': 'Database port',
		'database.name': 'Database name',
		'database.user': 'Database user',
		'database.password': 'Database password',
		nameserver: 'Name servers',
	};
</script>

<details class="card-paper letter" open={letter.read === null}>
	<summary>Paste the host's welcome letter</summary>
	<form
		onsubmit={(event) => {
			event.preventDefault();
			void letter.look();
		}}
	>
		<label class="sr-only" for="{id}-text">The letter's text</label>
		<textarea
			id="{id}-text"
			class="field"
			rows="7"
			bind:value={letter.text}
			required
			spellcheck="false"
			placeholder="The text the host sent when the account was opened, in English, German, French, Spanish, Italian, Portuguese, Dutch or Polish"
		></textarea>
		<div class="ways">
			<button class="btn btn-lesser" type="submit" disabled={letter.busy}
				>{letter.busy ? 'Reading…' : 'Read it'}</button
			>
			<label class="btn btn-lesser file">
				Or open its file
				<input
					type="file"
					accept=".eml,.pdf,.html,.htm,.txt,message/rfc822,application/pdf,text/*"
					class="sr-only"
					onchange={(event) => {
						const file = event.currentTarget.files?.[0];
						if (file) void letter.lookInto(file);
						event.currentTarget.value = '';
					}}
				/>
			</label>
			<span class="small quiet"
				>What is found goes into the form below, for you to look at. Nothing is kept before you say so.</span
			>
		</div>
	</form>
	{#if letter.fault}<Fault fault={letter.fault} />{/if}
</details>
{#if letter.read}
	<section class="card-paper found" aria-labelledby="{id}-found" aria-live="polite">
		<h2 id="{id}-found">Found in the letter</h2>
		{#if letter.all.length > 1}
			<p>It opens {letter.all.length} accounts; each is kept by itself.</p>
			<div class="ways which" role="group" aria-label="Which account">
				{#each letter.all as one, number (number)}
					<button
						class="btn btn-lesser"
						type="button"
						aria-pressed={letter.which === number}
						onclick={() => letter.choose(number)}
						>{one.account.name || `Account ${String(number + 1)}`}</button
					>
				{/each}
			</div>
		{/if}
		{#if letter.read.unsure?.length}
			<fieldset class="heed">
				<legend>Not sure: look at each of these</legend>
				{#each letter.read.found.filter((one) => letter.read?.unsure?.includes(one.name)) as one (one.name)}
					<label>
						<input type="checkbox" value={one.name} bind:group={letter.confirmed} />
						{WORDS[one.name] ?? one.name} is
						<span class="code">{one.secret && !shown ? '••••••••' : one.text}</span>
						<span class="small quiet">line {one.line}: {one.where}</span>
					</label>
				{/each}
			</fieldset>
		{/if}
		{#if letter.read.doubts.length || letter.read.missing.length}
			<ul class="heed">
				{#each letter.read.doubts as doubt (doubt)}<li>{doubt}</li>{/each}
				{#if letter.read.missing.length}<li>
						The letter does not say {letter.read.missing.join(', ')}.
					</li>{/if}
			</ul>
		{/if}
		<details>
			<summary>{letter.read.found.length} values, and where each stands</summary>
			{#if letter.read.found.some((one) => one.secret)}
				<label class="small"
					><input type="checkbox" bind:checked={shown} /> Show passwords, to compare them</label
				>
			{/if}
			<dl>
				{#each letter.read.found as one (one.name)}
					<dt>{WORDS[one.name] ?? one.name}</dt>
					<dd>
						<span class="code">{one.secret && !shown ? '••••••••' : one.text}</span>
						<span class="small quiet">line {one.line}, {sure(one.sure)}: {one.where}</span>
						{#if one.others.length && !one.secret}<span class="small quiet">or {one.others.join(', ')}</span
							>{/if}
					</dd>
				{/each}
			</dl>
		</details>
	</section>
{/if}

<style>
	.letter,
	.found {
		max-width: 56rem;
		margin-bottom: 1rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	form {
		margin-top: 0.6rem;
		display: grid;
		gap: 0.6rem;
	}
	.ways {
		display: flex;
		flex-wrap: wrap;
		gap: 0.4rem 0.9rem;
		align-items: center;
	}
	h2 {
		margin-bottom: 0.4rem;
	}
	.heed {
		border-left: 4px solid var(--heed);
		padding: 0.1rem 0.8rem;
		margin-bottom: 0.5rem;
		overflow-wrap: anywhere;
	}
	.which {
		margin: 0.4rem 0 0.6rem;
	}
	.which [aria-pressed='true'] {
		border-color: var(--color-primary-600);
		font-weight: 600;
	}
	fieldset {
		margin-bottom: 0.5rem;
	}
	fieldset label {
		display: block;
		padding: 0.15rem 0;
	}
	.file:focus-within {
		outline: 2px solid var(--color-primary-600);
		outline-offset: 2px;
	}
	dl {
		display: grid;
		grid-template-columns: minmax(7rem, max-content) minmax(0, 1fr);
		gap: 0.25rem 1rem;
		margin-top: 0.5rem;
	}
	dt {
		color: var(--soft);
	}
	dd {
		overflow-wrap: anywhere;
	}
	dd .small {
		display: block;
	}
	@media (max-width: 480px) {
		dl {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
