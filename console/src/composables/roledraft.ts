import { useQueries } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { familyQuery } from '../api/queries'
import { placed, roles } from './roles'

/** How the text of a role is set: in a file of the catalog, or, without one, in fallback fonts alone. */
export interface Look {
  name: string
  file?: number
  place: number
  weight: number
  slope: Schemas['FaceSlope']
  fallbacks: string[]
}

/** A face to choose for a role, as family:face; family:weight slope where the face is found by weight. */
interface FaceChoice {
  value: string
  label: string
  look: Look
}

type Assignment = Schemas['RoleAssignment']
const usualFallbacks = ['Arial', 'sans-serif']
const valueOf = (p: Assignment) => `${p.family}:${p.face ?? `${p.weight} ${p.slope}`}`
const slopeOf = (f: Schemas['Face']): Schemas['FaceSlope'] =>
  f.metadata.style.slope === 'upright' ? 'normal' : f.metadata.style.slope

/** Roles that take over from another where they have no font: as a page's elements inherit. */
const from: Record<string, string> = { links: 'body', lists: 'body', quotes: 'body', captions: 'body' }

/** The fonts of a site's roles while they are edited: what is chosen, what it looks like, what is sent. */
export function useRoleDraft(site: Ref<Schemas['Site']>) {
  /** Chosen values that differ from what is saved, by role; empty takes the font off. */
  const changes = ref<Record<string, string>>({})
  /** Families to choose from that are not on the site yet. */
  const added = ref<number[]>([])
  const read = useQueries({
    queries: computed(() =>
      [...new Set([...site.value.families.map((f) => f.family.id), ...added.value])].map(familyQuery),
    ),
  })
  const faces = computed(() => read.value.flatMap((q) => (q.data ? [q.data] : [])))
  const groups = computed(() =>
    faces.value.map((f) => ({
      id: f.id,
      name: f.name,
      choices: [
        ...f.faces.map((face): FaceChoice => {
          const file = face.files.find((o) => o.current) ?? face.files[0]
          const look = { name: f.name, file: file?.id, place: face.metadata.index, fallbacks: usualFallbacks }
          const { weight } = face.metadata.style
          return {
            value: `${f.id}:${face.id}`,
            label: `${f.name} ${face.style}`,
            look: { ...look, weight, slope: slopeOf(face) },
          }
        }),
        ...byWeight(f),
      ],
    })),
  )
  /** Weights that assignments ask for, besides the faces; of a hosted family, which has no faces, the regular one. */
  function byWeight(f: Schemas['Family']): FaceChoice[] {
    const out = new Map<string, FaceChoice>()
    for (const r of site.value.roles) {
      const a = r.assignment
      if (a.face || a.family !== f.id) continue
      const label = `${f.name}, weight ${a.weight}${a.slope === 'normal' ? '' : ` ${a.slope}`}`
      out.set(valueOf(a), { value: valueOf(a), label, look: lookOf(r) })
    }
    if (!f.faces.length && !out.size)
      out.set(`${f.id}:400 normal`, {
        value: `${f.id}:400 normal`,
        label: f.name,
        look: { name: f.name, place: 0, weight: 400, slope: 'normal', fallbacks: usualFallbacks },
      })
    return [...out.values()]
  }

  const assigned = (role: string) => site.value.roles.find((r) => r.assignment.role === role)
  const saved = (role: string) => {
    const r = assigned(role)
    return r ? valueOf(r.assignment) : ''
  }
  const value = (role: string) => changes.value[role] ?? saved(role)
  function choose(role: string, to: string) {
    const next = { ...changes.value }
    if (to === saved(role)) delete next[role]
    else next[role] = to
    changes.value = next
  }
  const dirty = computed(() => Object.keys(changes.value).length)
  const discard = () => (changes.value = {})

  /** How a role looks as it is chosen now; undefined without a font of its own or of the role it inherits from. */
  function look(role: string): Look | undefined {
    const chosen = value(role)
    if (!chosen) return from[role] ? look(from[role]) : undefined
    const r = assigned(role)
    if (r && chosen === valueOf(r.assignment)) return lookOf(r)
    return groups.value.flatMap((g) => g.choices).find((c) => c.value === chosen)?.look
  }

  /** All assignments as they are sent: what was not chosen here stays as it is. */
  function assignments(): Schemas['RoleAssignments'] {
    const now = placed(site.value)
    const kept = now.assignments.flatMap((a) => {
      const chosen = value(a.role)
      return !chosen ? [] : [chosen === valueOf(a) ? a : { ...a, ...chosenFace(chosen) }]
    })
    const fresh = roles
      .filter((r) => value(r.value) && !assigned(r.value))
      .map((r) => ({ role: r.value, fallbacks: usualFallbacks, override: false, ...chosenFace(value(r.value)) }))
    return { assignments: [...kept, ...fresh], replacements: now.replacements }
  }
  /** The face of a choice, with the weight and slope that it has. */
  function chosenFace(chosen: string): Pick<Assignment, 'family' | 'face' | 'weight' | 'slope'> {
    const [family, rest] = chosen.split(':') as [string, string]
    const face = faces.value.find((f) => String(f.id) === family)?.faces.find((f) => String(f.id) === rest)
    if (face) return { family: Number(family), face: face.id, weight: face.metadata.style.weight, slope: slopeOf(face) }
    const [weight, slope] = rest.split(' ')
    return {
      family: Number(family),
      face: undefined,
      weight: Number(weight),
      slope: (slope || 'normal') as Schemas['FaceSlope'],
    }
  }
  return { groups, added, value, choose, changes, dirty, discard, look, assignments }
}

/** How an assigned role looks as it is saved. */
export const lookOf = (r: Schemas['AssignedRole']): Look => ({
  name: r.family.name,
  file: r.file,
  place: r.place ?? 0,
  weight: r.assignment.weight,
  slope: r.assignment.slope,
  fallbacks: r.assignment.fallbacks,
})

/** A client's sample text as a page needs it: a heading, a sentence, and running text. */
export function pageWords(sample: string) {
  const words = sample.trim() || 'Quick zephyrs blow, vexing daft Jim'
  const sentences = words.split(/(?<=[.!?])\s+|\n+/).filter(Boolean)
  const stop = (t: string) => (/[.!?…]$/.test(t) ? t : `${t}.`)
  const title = sentences[0]!.replace(/\.$/, '')
  const running = sentences.map(stop).join(' ')
  return { title, second: (sentences[1] ?? sentences[0]!).replace(/\.$/, ''), running: `${running} ${running}` }
}
