import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('rollouts', '0017_models_to_their_apps'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        # The tables are there: those of the app that they were made in.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='KeptPlan',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('name', models.CharField(max_length=200, unique=True)),
                        ('places', models.JSONField()),
                        ('terms', models.JSONField(default=dict)),
                        ('kept_at', models.DateTimeField(auto_now=True)),
                        ('kept_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        'db_table': 'rollouts_keptplan',
                        'ordering': ('name',),
                    },
                ),
            ],
        ),
    ]
