from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("projects", "0003_project_deleted")]
    operations = [
        migrations.AddField(model_name="project", name="tags", field=models.JSONField(default=list)),
        migrations.AddField(model_name="project", name="archived", field=models.DateTimeField(null=True)),
        migrations.AddField(
            model_name="revision",
            name="worst",
            field=models.CharField(
                blank=True, default="", help_text="the title of its gravest finding", max_length=200
            ),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name="revision",
            name="touched",
            field=models.CharField(
                blank=True, default="", help_text="areas that differ from its parent", max_length=100
            ),
            preserve_default=False,
        ),
    ]
