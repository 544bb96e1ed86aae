import { describe, expect, it } from 'vitest'
import { draftOf, groups, recipeOf } from '../src/composables/recipe'

describe('recipes in a form', () => {
  it('asks for nothing where nothing is filled in', () => {
    expect(recipeOf(draftOf())).toEqual({})
  })
  it('comes back the same from a form', () => {
    const recipe = {
      subset: { keep: ['latin'], text: 'Ω', features: ['none'] },
      instance: { at: { wght: '650' }, named: undefined },
      rename: { family: 'Skerrow Timetable' },
      toTrueType: true,
      fine: true,
      split: ['latin', 'cyrillic'],
      fallback: { against: ['arial'], language: 'de', groups },
    }
    expect(recipeOf(draftOf(recipe))).toEqual(recipe)
  })
  it('takes a named instance instead of sliders', () => {
    const d = { ...draftOf(), instance: 'Bold', at: { wght: 650 } }
    expect(recipeOf(d).instance).toEqual({ at: {}, named: 'Bold' })
  })
  it('reads axes as people write them', () => {
    expect(recipeOf({ ...draftOf(), pinned: ' wght = 650 , wdth=87.5, odd' }).instance?.at).toEqual({
      wght: '650',
      wdth: '87.5',
    })
  })
  it('leaves rounding out where nothing is rounded', () => {
    expect(recipeOf({ ...draftOf(), rounding: 'fine' })).toEqual({})
    expect(recipeOf({ ...draftOf(), rounding: 'whole', retype: true })).toEqual({ toTrueType: true, whole: true })
  })
  it('does not change the recipe that a form was made of', () => {
    const keep = ['latin']
    draftOf({ subset: { keep, text: '', features: [] } }).keep.push('greek')
    expect(keep).toEqual(['latin'])
  })
})
