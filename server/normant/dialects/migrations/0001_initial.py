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
                    name='Dialect',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('app', models.CharField(max_length=64, unique=True)),
                        ('text', models.TextField()),
                        ('number', models.PositiveIntegerField(default=1)),
                        ('changed_at', models.DateTimeField(auto_now=True)),
                        ('signature', models.BinaryField(null=True)),
                        ('refused', models.CharField(blank=True, default='', max_length=300)),
                    ],
                    options={
                        'db_table': 'standards_dialect',
                    },
                ),
                migrations.CreateModel(
                    name='DialectVersion',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('app', models.CharField(max_length=64)),
                        ('number', models.PositiveIntegerField()),
                        ('text', models.TextField()),
                        ('kept_at', models.DateTimeField(auto_now_add=True)),
                        ('kept_by', models.CharField(max_length=150)),
                    ],
                    options={
                        'db_table': 'standards_dialectversion',
                        'ordering': ('-number',),
                        'constraints': [models.UniqueConstraint(fields=('app', 'number'), name='dialect_version_once')],
                    },
                ),
            ],
        ),
    ]
