<script lang="ts">
	import type { LetterReading } from '../state/letter.svelte';
	import Fault from './Fault.svelte';

	/** Paste the letter, read it, and see what was found where. */
	let { letter }: { letter: LetterReading } = $props();
	const id = $props.id();

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
			placeholder="The text the host sent when the account was opened, in English, German, French or Spanish"
		></textarea>
		<div class="ways">
			<button class="btn btn-lesser" type="submit" disabled={letter.busy}
				>{letter.busy ? 'Reading…' : 'Read it'}</button
			>
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
			<dl>
				{#each letter.read.found as one (one.name)}
					<dt>{WORDS[one.name] ?? one.name}</dt>
					<dd>
						<span class="code">{one.secret ? '••••••••' : one.text}</span>
						<span class="small quiet">line {one.line}: {one.where}</span>
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
