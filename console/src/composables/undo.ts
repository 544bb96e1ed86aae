import { ElButton, ElMessage } from 'element-plus'
import { h } from 'vue'

/** How long an undo is offered, in milliseconds. */
const patience = 10_000

/** Says what was done, and offers to undo it for a while. */
export function offerUndo(done: string, undo: () => unknown) {
  const shown = ElMessage({
    type: 'success',
    duration: patience,
    showClose: true,
    message: h('span', { role: 'status' }, [
      `${done} `,
      h(
        ElButton,
        {
          link: true,
          type: 'primary',
          onClick: () => {
            shown.close()
            undo()
          },
        },
        () => 'Undo',
      ),
    ]),
  })
}
