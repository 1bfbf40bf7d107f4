import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("projects", "0004_project_tags"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]
    operations = [
        migrations.CreateModel(
            name="KnownHeading",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("heading", models.CharField(help_text="as `heading_key` writes it", max_length=120)),
                ("role", models.CharField(blank=True, max_length=12)),
                ("state", models.CharField(blank=True, max_length=120)),
                ("unit", models.CharField(max_length=20, null=True)),
                ("used", models.DateTimeField(auto_now=True)),
                (
                    "owner",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="known_headings",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "ordering": ["-used", "-id"],
                "constraints": [models.UniqueConstraint(fields=("owner", "heading"), name="headings_differ")],
            },
        )
    ]
