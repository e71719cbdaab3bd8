<script lang="ts">
	import { api, done, faultOf, type FaultBody } from '../api/calls';
	import type { components } from '../api/schema';
	import Fault from './Fault.svelte';

	let { job, ended }: { job: string; ended: boolean } = $props();
	type Seen = components['schemas']['PageSeen'];
	let open = $state(false);
	let pages: Seen[] | null = $state.raw(null);
	let fault: FaultBody | null = $state.raw(null);

	$effect(() => {
		// Looked at when it is opened, and once more when the job has ended meanwhile.
		if (open && ended !== undefined) void load();
	});

	async function load(): Promise<void> {
		try {
			const found = await done(api.GET('/api/v1/jobs/{job_id}/pages', { params: { path: { job_id: job } } }));
			pages = found.items;
			fault = null;
		} catch (reason) {
			fault = faultOf(reason);
		}
	}

	function picture(page: Seen): string {
		return `/api/v1/jobs/${encodeURIComponent(job)}/pages/${page.number}/picture`;
	}

	function filled(page: Seen): string {
		return [...new Set((page.filled ?? []).map((f) => f.value))].join(', ');
	}
</script>

<details class="seen" bind:open>
	<summary>What the installer showed</summary>
	{#if fault}<Fault {fault} again={() => void load()} />{/if}
	{#if pages?.length === 0}
		<p class="quiet small">No page of an installer was seen.</p>
	{:else if pages}
		<ol>
			{#each pages as page (page.number)}
				<li>
					<p>
						<strong>{page.title || page.url}</strong>
						<span class="quiet small"
							>{[page.topic, page.outcome].filter(Boolean).join(', ')}{page.status === 200
								? ''
								: ` · status ${page.status}`}</span
						>
					</p>
					{#if page.did}
						<p>{page.did}{filled(page) ? ` with ${filled(page)}` : ''}</p>
					{/if}
					{#if page.against?.length}
						<p class="small against">{page.against.join(' · ')}</p>
					{/if}
					{#if page.pictured}
						<a href={picture(page)} target="_blank" rel="noreferrer"
							><img
								src={picture(page)}
								alt={`The page as a browser showed it: ${page.title}`}
								loading="lazy"
							/></a
						>
					{/if}
					<details class="small">
						<summary>Its text</summary>
						<pre>{page.text || 'None.'}</pre>
					</details>
				</li>
			{/each}
		</ol>
		<p class="small quiet">
			Secrets are masked. <a href={`/api/v1/jobs/${encodeURIComponent(job)}/evidence`} download
				>All of it as one zip</a
			>
		</p>
	{/if}
</details>

<style>
	.seen {
		margin-top: 1rem;
	}
	summary {
		color: light-dark(var(--color-primary-700), var(--color-primary-300));
		width: fit-content;
	}
	ol {
		margin: 0.6rem 0;
		padding: 0;
		list-style: none;
	}
	li {
		border-left: 2px solid var(--line);
		padding: 0.15rem 0 0.5rem 0.8rem;
		overflow-wrap: anywhere;
	}
	.against {
		color: var(--heed);
	}
	img {
		display: block;
		width: 20rem;
		max-width: 100%;
		max-height: 14rem;
		object-fit: cover;
		object-position: top;
		border: 1px solid var(--line);
		margin: 0.4rem 0;
	}
	pre {
		white-space: pre-wrap;
		background: var(--sunk);
		border: 1px solid var(--line);
		padding: 0.5rem 0.7rem;
		margin-top: 0.3rem;
		max-height: 20rem;
		overflow: auto;
	}
</style>
