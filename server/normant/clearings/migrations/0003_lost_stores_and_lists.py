import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Lists are kept for a day: those of the version before are asked for again."""

    dependencies = [
        ('clearings', '0002_standing_care'),
        ('orders', '0004_clearings'),
    ]

    operations = [
        migrations.RemoveField(
            model_name='clearing',
            name='delivered',
        ),
        migrations.AddField(
            model_name='storeclearing',
            name='is_implausible',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='storeclearing',
            name='deleted',
            field=models.JSONField(null=True),
        ),
        migrations.AddField(
            model_name='storeclearing',
            name='lost',
            field=models.CharField(blank=True, default='', max_length=300),
        ),
        migrations.AddField(
            model_name='storeclearing',
            name='lost_at',
            field=models.DateTimeField(null=True),
        ),
        migrations.DeleteModel(
            name='ListPart',
        ),
        migrations.CreateModel(
            name='FileList',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('state', models.CharField(choices=[('arriving', 'arriving'), ('reading', 'reading'), ('whole', 'whole'), ('refused', 'refused')], default='arriving', max_length=10)),
                ('message', models.CharField(blank=True, default='', max_length=500)),
                ('asked_at', models.DateTimeField(auto_now_add=True)),
                ('order', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='orders.order')),
                ('store', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='list', to='clearings.storeclearing')),
            ],
        ),
        migrations.CreateModel(
            name='ListPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('number', models.PositiveSmallIntegerField()),
                ('body', models.BinaryField()),
                ('lines', models.PositiveIntegerField()),
                ('list', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='clearings.filelist')),
            ],
            options={
                'ordering': ('number',),
                'constraints': [models.UniqueConstraint(fields=('list', 'number'), name='list_part_once')],
            },
        ),
        migrations.CreateModel(
            name='ListPage',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sort', models.CharField(max_length=10)),
                ('number', models.PositiveSmallIntegerField()),
                ('body', models.BinaryField()),
                ('list', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pages', to='clearings.filelist')),
            ],
            options={
                'ordering': ('sort', 'number'),
                'constraints': [models.UniqueConstraint(fields=('list', 'sort', 'number'), name='list_page_once')],
            },
        ),
    ]
