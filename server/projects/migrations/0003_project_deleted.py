from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("projects", "0002_revision_evaluation")]
    operations = [
        migrations.AddField(model_name="project", name="deleted", field=models.DateTimeField(db_index=True, null=True))
    ]
