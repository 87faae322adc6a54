"""Models and migrations say the same, and the OpenAPI document says what can go wrong."""

from django.core.management import call_command
from django.test import Client, TestCase


class Migrations(TestCase):
    def test_no_model_has_changed_without_its_migration(self) -> None:
        call_command("makemigrations", check=True, dry_run=True, verbosity=0)


class Document(TestCase):
    def test_every_operation_can_answer_with_a_problem(self) -> None:
        document = Client().get("/api/schema", headers={"Accept": "application/vnd.oai.openapi+json"}).json()
        operations = [
            operation
            for path in document["paths"].values()
            for method, operation in path.items()
            if method in ("get", "put", "post", "patch", "delete")
        ]
        self.assertGreater(len(operations), 25)
        for operation in operations:
            content = operation["responses"]["default"]["content"]["application/problem+json"]
            self.assertEqual(content["schema"]["$ref"], "#/components/schemas/Problem")

    def test_what_benches_say_needs_their_token(self) -> None:
        document = Client().get("/api/schema", headers={"Accept": "application/vnd.oai.openapi+json"}).json()
        for path, operations in document["paths"].items():
            if path.startswith("/api/bench/"):
                for operation in operations.values():
                    self.assertEqual(operation["security"], [{"benchToken": []}], path)
