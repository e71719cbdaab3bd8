<script lang="ts">
	import { onMount, type Snippet } from 'svelte';
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';
	import { api, done } from '../api/calls';
	import { p, route } from '../router';
	import { mode } from '../state/mode.svelte';
	import { session } from '../state/session.svelte';

	let { children }: { children: Snippet } = $props();

	const places = [
		['/', 'Today'],
		['/accounts', 'Accounts'],
		['/shelf', 'Shelf'],
		['/installations', 'Installations'],
		['/jobs', 'Jobs'],
		['/manual', 'Manual'],
	] as const;
	// Why nothing can be changed at the moment: told on every page, before somebody fills in a form for nothing.
	let readOnly = $state('');
	async function look(): Promise<void> {
		try {
			readOnly = (await done(api.GET('/api/v1/health'))).read_only ?? '';
		} catch {
			// Whoever asks next tells what is wrong.
		}
	}
	onMount(() => {
		void look();
		const again = setInterval(() => void look(), 60_000);
		return () => clearInterval(again);
	});
	const here = (path: string): boolean =>
		path === '/' ? route.pathname === '/' : route.pathname.startsWith(path) && route.pathname !== '/jobs/new';
</script>

<a class="skip" href="#main">Skip to the page</a>
<header>
	<div class="bar">
		<a class="brand" href={p('/')} aria-label="High Shelf, today">
			<img src="/shelf.svg" alt="" width="26" height="26" />
			<span>High Shelf</span>
		</a>
		<nav aria-label="Places">
			{#each places as [path, name] (path)}
				<a href={p(path)} aria-current={here(path) ? 'page' : undefined}>{name}</a>
			{/each}
		</nav>
		<div class="own">
			<a
				class="btn btn-small btn-act"
				href={p('/jobs/new')}
				aria-current={route.pathname === '/jobs/new' ? 'page' : undefined}
			>
				New job
			</a>
			<button
				class="icon"
				type="button"
				onclick={() => mode.turn()}
				aria-label={mode.dark ? 'Light colours' : 'Dark colours'}
			>
				{#if mode.dark}<Sun size={17} />{:else}<Moon size={17} />{/if}
			</button>
			<a class="who" href={p('/operators')} aria-current={here('/operators') ? 'page' : undefined}
				>{session.operator}</a
			>
			<button class="leave" type="button" onclick={() => void session.signOut()}>Sign out</button>
		</div>
	</div>
</header>
{#if session.news.length}
	<aside class="told" aria-label="About your sign-in">
		<div>
			<strong>About your sign-in, since you were here last</strong>
			<ul>
				{#each session.news as one (one)}<li>{one}</li>{/each}
			</ul>
			<p class="small">Not you? End the other browsers and make a new password on your own page.</p>
		</div>
		<button class="btn btn-small btn-lesser" type="button" onclick={() => (session.news = [])}
			>I have read it</button
		>
	</aside>
{/if}
{#if readOnly}
	<aside class="told" role="status">
		<div>
			<strong>Nothing can be changed at the moment</strong>
			<p class="small">{readOnly}</p>
		</div>
	</aside>
{/if}
<main id="main" tabindex="-1">{@render children()}</main>

<style>
	header {
		background: var(--card);
		border-bottom: 1px solid var(--line);
		position: sticky;
		top: 0;
		z-index: 10;
	}
	.bar {
		max-width: 74rem;
		margin: 0 auto;
		padding: 0 1.25rem;
		display: flex;
		align-items: stretch;
		gap: 0 1.6rem;
		min-height: 3.1rem;
	}
	.brand {
		display: flex;
		align-items: center;
		gap: 0.5rem;
		font-weight: 720;
		color: var(--ink);
		text-decoration: none;
		white-space: nowrap;
	}
	nav {
		display: flex;
		gap: 0.2rem;
	}
	nav a {
		display: flex;
		align-items: center;
		padding: 0.2rem 0.7rem 0;
		color: var(--soft);
		text-decoration: none;
		border-bottom: 4px solid transparent;
	}
	nav a:hover {
		color: var(--ink);
	}
	/* The board of a shelf under the place where one is. */
	nav a[aria-current] {
		color: var(--ink);
		font-weight: 650;
		border-bottom-color: var(--act);
	}
	.own {
		margin-left: auto;
		display: flex;
		align-items: center;
		gap: 0.75rem;
	}
	.own .btn {
		text-decoration: none;
	}
	.icon,
	.leave {
		color: var(--soft);
		padding: 0.35rem;
		border-radius: var(--radius-base);
	}
	.icon:hover,
	.leave:hover {
		color: var(--ink);
	}
	.leave,
	.who {
		font-size: 0.8125rem;
	}
	.who {
		color: var(--soft);
		max-width: 9rem;
		overflow: hidden;
		text-overflow: ellipsis;
		white-space: nowrap;
	}
	.told {
		max-width: 74rem;
		margin: 0.8rem auto 0;
		padding: 0.7rem 1.25rem;
		display: flex;
		justify-content: space-between;
		align-items: start;
		gap: 1rem;
		background: var(--card);
		border: 1px solid var(--line);
		border-left: 4px solid var(--heed);
	}
	.told ul {
		margin: 0.3rem 0;
		padding-left: 1.1rem;
		list-style: square;
	}
	.skip {
		position: absolute;
		left: -99rem;
	}
	.skip:focus {
		left: 0.5rem;
		top: 0.5rem;
		z-index: 30;
		background: var(--card);
		padding: 0.5rem 0.8rem;
	}
	main {
		max-width: 74rem;
		margin: 0 auto;
		padding: 1.4rem 1.25rem 4rem;
		outline: none;
	}
	@media (max-width: 820px) {
		.bar {
			flex-wrap: wrap;
			padding: 0.35rem 0.9rem 0;
			min-height: 0;
		}
		nav {
			order: 3;
			width: 100%;
			justify-content: space-between;
			gap: 0;
		}
		nav a {
			padding: 0.45rem 0.25rem 0.3rem;
			font-size: 0.875rem;
		}
		.own {
			gap: 0.45rem;
		}
		.who {
			max-width: 4.5rem;
		}
		main {
			padding: 1rem 0.9rem 3rem;
		}
	}
</style>
