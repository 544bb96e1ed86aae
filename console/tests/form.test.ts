import { describe, expect, it, vi } from 'vitest'
import { ProblemError } from '../src/api/client'
import { copy } from '../src/composables/copy'
import { choosing, useTrouble } from '../src/composables/form'

const problem = { type: 'about:blank', title: 'Unprocessable', status: 422, code: 'bad-name', detail: 'Choose a name.' }

describe('what went wrong with a form', () => {
  it('stands at the field that the service named', async () => {
    const t = useTrouble()
    await t.guard(() => Promise.reject(new ProblemError({ ...problem, field: 'name' })))
    expect(t.text.value).toBe('Choose a name.')
    expect(t.at('name')).toBe('Choose a name.')
    expect(t.at('client')).toBe('')
  })
  it('is gone with the next try', async () => {
    const t = useTrouble()
    await t.guard(() => Promise.reject(new Error('The network is down.')))
    expect([t.text.value, t.field.value]).toEqual(['The network is down.', ''])
    await t.guard(() => Promise.resolve())
    expect(t.text.value).toBe('')
  })
})

describe('enter', () => {
  it('sends a form from a text, not from a list', () => {
    document.body.innerHTML = '<div class="el-select"><input id="list"></div><input id="text">'
    for (const [id, times] of [
      ['list', 1],
      ['text', 0],
    ] as const) {
      const prevented = vi.fn()
      choosing({ target: document.getElementById(id), preventDefault: prevented } as unknown as KeyboardEvent)
      expect(prevented).toHaveBeenCalledTimes(times)
    }
  })
})

describe('copying', () => {
  it('takes the older way where the clipboard is refused, and leaves nothing behind', async () => {
    vi.stubGlobal('navigator', { clipboard: { writeText: () => Promise.reject(new Error('no')) } })
    let seen = ''
    document.execCommand = () => {
      seen = document.querySelector('textarea')?.value ?? ''
      return true
    }
    await copy('Skerrow Sans')
    expect(seen).toBe('Skerrow Sans')
    expect(document.querySelector('textarea')).toBeNull()
    vi.unstubAllGlobals()
  })
})
