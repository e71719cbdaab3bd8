<script lang="ts">
	import type { Schemas } from '../api/calls';
	import { bytes } from '../lib/say';
	import { FromMakers } from '../state/fetch.svelte';
	import Fault from './Fault.svelte';
	import Field from './Field.svelte';

	/** A release fetched from where its makers publish it, with what it is compared with. */
	let { kept }: { kept: (release: Schemas['ReleaseOut']) => void } = $props();
	const makers = new FromMakers();
	let [address, checksum, signature, key, signIn] = $state(['', '', '', '', '']);
	let more = $state(false);
	const now = $derived(makers.now);

	$effect(() => {
		void makers.takeUp().then((release) => {
			if (release) kept(release);
		});
		return () => makers.leave();
	});

	async function order(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const release = await makers.start({ address, checksum, signature, key, signIn });
		if (!release) return;
		[address, checksum, signature, key, signIn] = ['', '', '', '', ''];
		kept(release);
	}
</script>

{#if makers.busy && now}
	<div class="card-paper rows" aria-live="polite">
		<p class="said">
			{now.file_name}:
			{#if now.state === 'reading'}brought over, being compared, read and hashed…
			{:else if now.state === 'queued'}in line
			{:else}{bytes(now.done_bytes)}{now.total_bytes ? ` of ${bytes(now.total_bytes)}` : ''}{/if}
			{#if now.note}<span class="small quiet">{now.note}</span>{/if}
		</p>
		<progress
			max={now.total_bytes ?? undefined}
			value={now.state === 'fetching' && now.total_bytes ? now.done_bytes : undefined}
			aria-label="Fetching"
		></progress>
		<p>
			<button class="btn btn-small btn-lesser" type="button" onclick={() => void makers.stop()}>Stop</button>
			<span class="small quiet">It goes on by itself when this page is closed.</span>
		</p>
	</div>
{:else}
	<form class="rows" onsubmit={order}>
		<div class="line">
			<Field
				label="Or fetch it from its makers"
				bind:value={address}
				type="url"
				required
				spellcheck="false"
				placeholder="https://…/quaystore-3.2.0.zip"
			/>
			<button class="btn btn-lesser" type="submit" disabled={makers.busy}>Fetch it</button>
		</div>
		<details bind:open={more}>
			<summary>Compare it, or sign in there</summary>
			<div class="more">
				<Field
					label="Checksum"
					bind:value={checksum}
					spellcheck="false"
					hint="SHA-256 or SHA-512, or the address of its makers' checksum file."
				/>
				<Field
					label="OpenPGP signature"
					bind:value={signature}
					type="url"
					spellcheck="false"
					hint="The address of the .asc or .sig file beside it."
				/>
				<Field
					label="Makers' public key"
					bind:value={key}
					spellcheck="false"
					hint="Its address, or the key itself."
				/>
				<Field
					label="Signs in with"
					bind:value={signIn}
					type="password"
					autocomplete="off"
					spellcheck="false"
					hint="A header such as Cookie: pass=… or Authorization: Bearer … It is sent to that address alone and kept no longer than the fetch."
				/>
			</div>
		</details>
	</form>
{/if}
{#if makers.fault}<Fault fault={makers.fault} />{/if}

<style>
	.rows {
		display: grid;
		gap: 0.5rem;
	}
	.line {
		display: flex;
		gap: 0.8rem;
		align-items: end;
		flex-wrap: wrap;
	}
	.line > :global(:first-child) {
		flex: 1 1 20rem;
	}
	.more {
		display: grid;
		gap: 0.8rem;
		grid-template-columns: repeat(auto-fit, minmax(min(18rem, 100%), 1fr));
		margin-top: 0.6rem;
	}
	progress {
		width: 100%;
		height: 0.5rem;
		accent-color: var(--act);
	}
	.said {
		overflow-wrap: anywhere;
	}
</style>
