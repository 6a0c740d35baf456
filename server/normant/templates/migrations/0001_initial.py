import django.contrib.postgres.fields
import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('standards', '0008_models_to_their_apps'),
    ]

    operations = [
        # The tables are there: those of the app that they were made in.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='Template',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('name', models.CharField(max_length=80)),
                        ('app', models.CharField(max_length=64)),
                        ('productions', django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=80), blank=True, default=list, size=None)),
                        ('file', models.CharField(max_length=120)),
                        ('body', models.BinaryField()),
                        ('digest', models.CharField(max_length=64)),
                        ('kept_at', models.DateTimeField(default=django.utils.timezone.now)),
                        ('kept_by', models.CharField(max_length=150)),
                        ('held_until', models.DateTimeField(null=True)),
                    ],
                    options={
                        'db_table': 'standards_template',
                        'ordering': ('app', 'name', '-id'),
                        'constraints': [models.UniqueConstraint(condition=models.Q(('held_until', None)), fields=('name',), name='template_one_of_a_name')],
                    },
                ),
            ],
        ),
    ]
