<script lang="ts">
	import { bytes } from '../lib/say';
	import type { Schemas } from '../api/calls';
	import { CheckIn } from '../state/checkin.svelte';
	import Fault from './Fault.svelte';

	/** A place to drop an archive, or to choose one; says how far it is. */
	let { kept, small = false }: { kept: (release: Schemas['ReleaseOut']) => void; small?: boolean } = $props();
	const id = $props.id();
	const checkIn = new CheckIn();
	let over = $state(false);
	let input: HTMLInputElement | undefined = $state();
	const percent = $derived(checkIn.file?.size ? Math.round((checkIn.sent / checkIn.file.size) * 100) : 0);

	async function take(files: FileList | null | undefined): Promise<void> {
		over = false;
		// More than one at a time are taken one after the other.
		for (const file of Array.from(files ?? [])) {
			const release = await checkIn.start(file);
			if (release === null) return;
			kept(release);
		}
		if (input) input.value = '';
	}

	async function accept(): Promise<void> {
		if (!checkIn.file) return;
		const release = await checkIn.start(checkIn.file, checkIn.words);
		if (release !== null) kept(release);
	}
</script>

<div
	class="drop"
	class:over
	class:small
	role="group"
	aria-labelledby="{id}-label"
	ondragover={(event) => {
		event.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={(event) => {
		event.preventDefault();
		if (!checkIn.busy) void take(event.dataTransfer?.files);
	}}
>
	{#if checkIn.busy}
		<p id="{id}-label" class="said" aria-live="polite">
			{#if checkIn.state === 'sending'}
				{checkIn.file?.name}: {bytes(checkIn.sent)} of {bytes(checkIn.file?.size ?? 0)}
			{:else}
				{checkIn.file?.name}: brought over, being read and hashed…
			{/if}
		</p>
		<progress
			class="bar"
			max="100"
			value={checkIn.state === 'sending' ? percent : undefined}
			aria-label="Check-in"
		></progress>
		{#if checkIn.state === 'sending'}
			<button class="btn btn-small btn-lesser" type="button" onclick={() => checkIn.stop()}>Stop</button>
		{/if}
	{:else}
		<p id="{id}-label" class="said">
			Drop a release's archive here, or
			<label class="choose" for={id}>choose the file</label>
		</p>
		<input
			{id}
			class="sr-only"
			type="file"
			accept=".zip,.tar,.gz,.tgz,.bz2,.tbz2,.xz,.txz,.zst,.tzst,.7z"
			multiple
			bind:this={input}
			onchange={() => void take(input?.files)}
		/>
		{#if !small}<p class="small quiet">
				zip, 7z or tar (plain, gz, bz2, xz, zst), as its makers publish it. It is read and hashed; nothing
				goes to a host.
			</p>{/if}
	{/if}
	{#if checkIn.fault}<Fault fault={checkIn.fault} />{/if}
	{#if checkIn.words.length}
		<button class="btn btn-small btn-lesser" type="button" onclick={() => void accept()}>
			Check it in all the same, accepting {checkIn.words.join(', ')}
		</button>
	{/if}
</div>

<style>
	.drop {
		border: 1.5px dashed var(--edge);
		background: var(--card);
		padding: 1.1rem 1.2rem;
		display: grid;
		gap: 0.5rem;
		justify-items: start;
		border-radius: var(--radius-container);
	}
	.small.drop {
		padding: 0.6rem 0.8rem;
	}
	.over {
		border-color: var(--act);
		background: color-mix(in oklab, var(--act) 8%, var(--card));
	}
	.drop:has(input:focus-visible) {
		outline: 2px solid var(--act);
		outline-offset: 2px;
	}
	.choose {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		text-decoration: underline;
		cursor: pointer;
		font-weight: 600;
	}
	.bar {
		width: 100%;
		height: 0.5rem;
		accent-color: var(--act);
	}
	.said {
		overflow-wrap: anywhere;
	}
</style>
