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
                    name='Package',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('name', models.CharField(max_length=200)),
                        ('serves', django.contrib.postgres.fields.ArrayField(base_field=models.CharField(max_length=80), size=None)),
                        ('platform', models.CharField(blank=True, default='', max_length=20)),
                        ('version', models.CharField(max_length=60)),
                        ('branch', models.CharField(blank=True, default='', max_length=60)),
                        ('digest', models.CharField(max_length=64)),
                        ('size', models.PositiveBigIntegerField()),
                        ('kept_at', models.DateTimeField(default=django.utils.timezone.now)),
                        ('kept_by', models.CharField(max_length=150)),
                        ('withdrawn_at', models.DateTimeField(null=True)),
                    ],
                    options={
                        'db_table': 'standards_package',
                        'ordering': ('name', '-id'),
                        'constraints': [models.UniqueConstraint(condition=models.Q(('withdrawn_at', None)), fields=('digest',), name='package_held_once')],
                    },
                ),
            ],
        ),
    ]
