"""The demo data, and the pages that are not the API."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.test import TestCase

from projects.demo import DEMO_FILES, DEMO_FOLDER, load_demo
from projects.models import Project, Variant


class Demo(TestCase):
    def test_every_file_in_the_folder_is_loaded_once(self) -> None:
        self.assertEqual({name for name, _ in DEMO_FILES}, {p.name for p in DEMO_FOLDER.glob("*.json")})
        self.assertEqual(load_demo(), 4)
        self.assertEqual(load_demo(), 0)
        self.assertEqual(Variant.objects.count(), len(DEMO_FILES))
        self.assertFalse(User.objects.get(username="demo").has_usable_password())

    def test_what_a_person_deleted_does_not_come_back(self) -> None:
        load_demo()
        Project.objects.all().delete()
        load_demo()
        self.assertEqual(Project.objects.count(), 0)


class Interface(TestCase):
    def test_any_path_serves_the_interface_with_a_strict_policy(self) -> None:
        response = self.client.get("/gadgets/1/draw")
        self.assertEqual(response.status_code, 200)
        self.assertIn("default-src 'self'", response["Content-Security-Policy"])

    def test_unknown_api_paths_are_not_the_interface(self) -> None:
        self.assertEqual(self.client.get("/api/nothing").status_code, 404)
