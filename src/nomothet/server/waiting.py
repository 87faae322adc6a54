"""Work in the background that a worker was killed over."""

from collections.abc import Callable, Iterable
from typing import Any

from django.db import transaction
from django_tasks.base import Task, TaskResultStatus
from django_tasks_db.models import DBTaskResult

# A task that has ended its worker so often is not begun again.
MOST_WORKERS = 3


def resume_interrupted(is_alive: Callable[[str], bool] = lambda _: False) -> int:
    """Let what was running when its worker ended run again; called by each worker before it begins.

    A task that has ended three workers is given up. Returns how many wait again.

    Parameters
    ----------
    is_alive : callable
        Whether the worker of an id is still there, which has the task in hand then.
    """
    resumed = 0
    for pk in list(DBTaskResult.objects.filter(status=TaskResultStatus.RUNNING).values_list("pk", flat=True)):
        with transaction.atomic():
            # Another worker that begins at the same time may have let it run again already.
            result = DBTaskResult.objects.select_for_update().get(pk=pk)
            if result.status != TaskResultStatus.RUNNING or (result.worker_ids and is_alive(result.worker_ids[-1])):
                continue
            if len(result.worker_ids) >= MOST_WORKERS:
                result.set_failed(RuntimeError("the worker ended over it again and again"))
            else:
                result.status = TaskResultStatus.READY
                result.save(update_fields=["status"])
                resumed += 1
    return resumed


def enqueue_once(task: "Task[[], Any]") -> None:
    """Queue a task without arguments, unless it waits already: a worker that is started often would pile them up."""
    if not DBTaskResult.objects.ready().filter(task_path=task.module_path).exists():
        task.enqueue()


def arguments_waiting(task: "Task[..., Any]") -> set[Any]:
    """First arguments of a task that waits or runs."""
    return set(_first(DBTaskResult.objects.filter(task_path=task.module_path, finished_at=None)))


def arguments_given_up(task: "Task[..., Any]") -> set[Any]:
    """First arguments of a task over which worker after worker has ended."""
    failed = DBTaskResult.objects.filter(task_path=task.module_path, status=TaskResultStatus.FAILED)
    return set(_first(one for one in failed if len(one.worker_ids) >= MOST_WORKERS))


def _first(results: Iterable["DBTaskResult[Any, Any]"]) -> list[Any]:
    return [result.args_kwargs["args"][0] for result in results if result.args_kwargs["args"]]
