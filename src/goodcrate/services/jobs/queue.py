"""Where jobs wait when their workers are elsewhere: a queue at a broker that every machine reaches."""

from uuid import UUID

import redis
from dramatiq import Broker, Message
from dramatiq.brokers.redis import RedisBroker
from dramatiq.errors import BrokerError
from dramatiq.middleware import AgeLimit

from goodcrate.services.jobs.ledger import WAITS_AT_MOST
from goodcrate.services.jobs.process import QueueAway

QUEUE, WORK = "goodcrate", "work"
ANSWERS_WITHIN_S = 5.0
"""A broker that does not answer for so long is away."""


def broker_at(url: str) -> Broker:
    """The broker at an address such as redis://10.0.0.5:6379/0. Nothing connects yet."""
    patience = {"socket_connect_timeout": ANSWERS_WITHIN_S, "socket_timeout": ANSWERS_WITHIN_S}
    client = redis.Redis.from_url(url, **patience)
    too_old = AgeLimit(max_age=int(WAITS_AT_MOST.total_seconds() * 1000))
    broker: Broker = RedisBroker(client=client, namespace=QUEUE, middleware=[too_old])  # type: ignore[no-untyped-call]
    broker.declare_queue(QUEUE)
    return broker


class BrokerQueue:
    """Jobs on their way to a worker: only ids and the kind's name travel."""

    def __init__(self, broker: Broker) -> None:
        self.broker = broker

    def send(self, household_id: UUID, kind: str, job_id: UUID) -> None:
        """Put a job in the queue.

        Raises:
            QueueAway: when the broker does not take it.
        """
        args = (str(household_id), kind, str(job_id))
        try:
            self.broker.enqueue(Message(queue_name=QUEUE, actor_name=WORK, args=args, kwargs={}, options={}))
        except (redis.RedisError, BrokerError) as error:
            raise QueueAway(str(error)) from error
