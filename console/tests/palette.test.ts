import { expect, test } from 'vitest'
import { matching, typingIn } from '../src/composables/palette'

const targets = [
  { kind: 'Page', name: 'Sites', to: '/sites' },
  { kind: 'Site', name: 'Holmvik timetable', note: 'Holmvik Ferries', to: '/sites/1' },
  { kind: 'Site', name: 'Growers · App', note: 'Saltmarsh Seed Exchange', to: '/sites/2' },
  { kind: 'Client', name: 'Holmvik Ferries', to: '/clients/2' },
]

test('the palette finds by the beginnings of words', () => {
  const names = (typed: string) => matching(targets, typed).map((t) => t.to)
  expect(names('')).toEqual(['/sites'])
  expect(names('holm')).toEqual(['/sites/1', '/clients/2'])
  expect(names('ferr')).toEqual(['/sites/1', '/clients/2'])
  expect(names('app')).toEqual(['/sites/2'])
  expect(names('holm time')).toEqual(['/sites/1'])
  expect(names('olm')).toEqual([])
})

test('keys that are typed into a field open nothing', () => {
  const field = document.createElement('input')
  expect(typingIn(field)).toBe(true)
  expect(typingIn(document.createElement('button'))).toBe(false)
  expect(typingIn(null)).toBe(false)
})
