"""Work off the interface thread: what is done, for whom, in a thread or in a process beside the desk."""

from kneel.desk.operations.beside import Beside
from kneel.desk.operations.jobs import Job, Jobs
from kneel.desk.operations.operation import Lane, Operation
from kneel.desk.operations.threads import Task, Workers

__all__ = ["Beside", "Job", "Jobs", "Lane", "Operation", "Task", "Workers"]
