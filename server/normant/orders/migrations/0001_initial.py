import django.db.models.deletion
import uuid
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('rollouts', '0017_models_to_their_apps'),
        ('seats', '0007_keys_and_codes'),
    ]

    operations = [
        # The tables are there: those of the app that they were made in.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='Order',
                    fields=[
                        ('id', models.UUIDField(default=uuid.uuid4, primary_key=True, serialize=False)),
                        ('kind', models.CharField(max_length=30)),
                        ('settings', models.JSONField(default=list)),
                        ('body', models.BinaryField()),
                        ('signature', models.BinaryField(null=True)),
                        ('refused', models.CharField(blank=True, default='', max_length=300)),
                        ('place', models.PositiveIntegerField(default=0)),
                        ('created_at', models.DateTimeField(auto_now_add=True)),
                        ('withdrawn_at', models.DateTimeField(null=True)),
                        ('receipt', models.JSONField(null=True)),
                        ('received_at', models.DateTimeField(null=True)),
                        ('leg', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='orders', to='rollouts.leg')),
                        ('rehearsal', models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name='orders', to='rollouts.rehearsal')),
                        ('seat', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='orders', to='seats.seat')),
                    ],
                    options={
                        'db_table': 'rollouts_order',
                        'ordering': ('created_at', 'place'),
                        'indexes': [models.Index(condition=models.Q(('received_at', None), ('withdrawn_at', None)), fields=['seat'], name='order_waiting')],
                    },
                ),
            ],
        ),
    ]
