<!-- Readmes, installation texts and licences of a release, to be read here. -->
<script lang="ts">
	import { api, done, faultOf, type FaultBody, type Schemas } from '../api/calls';
	import { bytes } from '../lib/say';
	import Fault from './Fault.svelte';

	const { ref }: { ref: string } = $props();
	let texts = $state.raw<Schemas['TextOut'][]>([]);
	let shown = $state.raw<Schemas['TextOut'] | null>(null);
	let fault = $state.raw<FaultBody | null>(null);
	$effect(() => void load(ref));

	async function load(wanted: string): Promise<void> {
		try {
			texts = (await done(api.GET('/api/v1/releases/{ref}/texts', { params: { path: { ref: wanted } } })))
				.items;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
	async function read(path: string): Promise<void> {
		if (shown?.path === path) {
			shown = null;
			return;
		}
		try {
			shown = await done(
				api.GET('/api/v1/releases/{ref}/text', { params: { path: { ref }, query: { path } } }),
			);
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}
</script>

{#if texts.length || fault}
	<section class="texts card-paper" aria-labelledby="texts">
		<h2 id="texts">Texts</h2>
		{#if fault}<Fault {fault} />{/if}
		<div class="names">
			{#each texts as one (one.path)}
				<button
					class="btn btn-lesser"
					type="button"
					aria-expanded={shown?.path === one.path}
					onclick={() => void read(one.path)}
				>
					{one.path} <span class="quiet small">{bytes(one.size_bytes)}</span>
				</button>
			{/each}
		</div>
		{#if shown}<pre class="small">{shown.text}</pre>{/if}
	</section>
{/if}

<style>
	.texts {
		margin-top: 1rem;
	}
	h2 {
		margin-bottom: 0.5rem;
	}
	.names {
		display: flex;
		flex-wrap: wrap;
		gap: 0.5rem;
	}
	pre {
		margin-top: 0.8rem;
		max-height: 30rem;
		overflow: auto;
		white-space: pre-wrap;
		overflow-wrap: anywhere;
	}
</style>
