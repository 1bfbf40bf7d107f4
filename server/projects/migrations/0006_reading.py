import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("projects", "0005_knownheading"), migrations.swappable_dependency(settings.AUTH_USER_MODEL)]
    operations = [
        migrations.CreateModel(
            name="Reading",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("prototype", models.PositiveSmallIntegerField(default=1)),
                ("step", models.CharField(max_length=80)),
                ("value", models.FloatField(null=True)),
                ("instrument", models.CharField(blank=True, max_length=80)),
                ("taken", models.DateTimeField(auto_now_add=True)),
                (
                    "author",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "variant",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="readings", to="projects.variant"
                    ),
                ),
            ],
            options={"ordering": ["-taken", "-id"]},
        )
    ]
