import './app.css'
import { mount } from 'svelte'
import App from './App.svelte'
import { fetchScreens } from './router'

const target = document.getElementById('app')
if (target) mount(App, { target })
if ('requestIdleCallback' in window) requestIdleCallback(() => void fetchScreens())
else setTimeout(() => void fetchScreens(), 500)
