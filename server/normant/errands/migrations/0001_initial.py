import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('rollouts', '0017_models_to_their_apps'),
        ('findings', '0003_told_at'),
        ('seats', '0007_keys_and_codes'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        # The tables are there: those of the app that they were made in.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='Errand',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('work', models.JSONField()),
                        ('note', models.CharField(blank=True, default='', max_length=500)),
                        ('made_at', models.DateTimeField(auto_now_add=True)),
                        ('state', models.CharField(choices=[('held', 'held'), ('open', 'open'), ('signed', 'signed'), ('done', 'done'), ('dropped', 'dropped')], default='open', max_length=10)),
                        ('message', models.CharField(blank=True, default='', max_length=300)),
                        ('signed_at', models.DateTimeField(null=True)),
                        ('words', models.CharField(blank=True, default='', max_length=500)),
                        ('ended_at', models.DateTimeField(null=True)),
                        ('finding', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='errands', to='findings.finding')),
                        ('made_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                        ('rollout', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='errands', to='rollouts.rollout')),
                        ('seat', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='errands', to='seats.seat')),
                        ('signed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name='+', to=settings.AUTH_USER_MODEL)),
                    ],
                    options={
                        'db_table': 'rollouts_errand',
                        'ordering': ('id',),
                        'constraints': [models.UniqueConstraint(condition=models.Q(('ended_at', None)), fields=('finding',), name='errand_one_at_a_time_for_a_finding'), models.CheckConstraint(condition=models.Q(models.Q(('ended_at', None), ('state__in', ['held', 'open', 'signed'])), models.Q(('ended_at__isnull', False), ('state__in', ['done', 'dropped'])), _connector='OR'), name='errand_ended_when_it_has')],
                    },
                ),
            ],
        ),
    ]
