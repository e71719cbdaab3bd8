import { createRouter } from 'sv-router';
import Account from './pages/Account.svelte';
import AccountImport from './pages/AccountImport.svelte';
import AccountNew from './pages/AccountNew.svelte';
import Accounts from './pages/Accounts.svelte';
import Installation from './pages/Installation.svelte';
import Installations from './pages/Installations.svelte';
import Job from './pages/Job.svelte';
import Jobs from './pages/Jobs.svelte';
import NewJob from './pages/NewJob.svelte';
import Nowhere from './pages/Nowhere.svelte';
import Operators from './pages/Operators.svelte';
import Release from './pages/Release.svelte';
import Shelf from './pages/Shelf.svelte';
import Today from './pages/Today.svelte';

export const { p, navigate, isActive, route } = createRouter({
	'/': Today,
	'/accounts': Accounts,
	'/accounts/new': AccountNew,
	'/accounts/import': AccountImport,
	'/accounts/:name': Account,
	'/shelf': Shelf,
	'/shelf/:sha256': Release,
	'/jobs': Jobs,
	'/jobs/new': NewJob,
	'/jobs/:id': Job,
	'/installations': Installations,
	'/installations/:id': Installation,
	'/operators': Operators,
	'/manual': () => import('./pages/Manual.svelte'),
	'/manual/:name': () => import('./pages/Manual.svelte'),
	'*nowhere': Nowhere,
});
