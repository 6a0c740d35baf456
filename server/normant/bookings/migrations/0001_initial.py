from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('rollouts', '0017_models_to_their_apps'),
    ]

    operations = [
        # The tables are there: those of the app that they were made in.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='Calendar',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('room', models.CharField(max_length=80, unique=True)),
                        ('name', models.CharField(max_length=200)),
                        ('text', models.TextField()),
                        ('address', models.URLField(blank=True, default='', max_length=500)),
                        ('fault', models.CharField(blank=True, default='', max_length=300)),
                        ('bookings', models.JSONField(default=list)),
                        ('unfolded_until', models.DateTimeField(null=True)),
                        ('unfolded_zone', models.CharField(blank=True, default='', max_length=80)),
                        ('kept_at', models.DateTimeField(auto_now=True)),
                        ('kept_by', models.CharField(max_length=150)),
                    ],
                    options={
                        'db_table': 'rollouts_calendar',
                        'ordering': ('room',),
                    },
                ),
            ],
        ),
    ]
