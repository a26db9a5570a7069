import './app.css'
import { mount } from 'svelte'
import App from './App.svelte'
import { fetchScreens } from './router'

const target = document.getElementById('app')
if (target) mount(App, { target })
// without a network the shell still opens; only where the page came safely, as browsers want it
if ('serviceWorker' in navigator && import.meta.env.PROD)
  void navigator.serviceWorker.register('/sw.js').catch(() => undefined)
if ('requestIdleCallback' in window) requestIdleCallback(() => void fetchScreens())
else setTimeout(() => void fetchScreens(), 500)
