from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [('rollouts', '0016_errand_work')]

    operations = [
        # The tables stay, and the apps that these models moved to take them over.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel('Calendar'),
                migrations.DeleteModel('KeptPlan'),
                migrations.DeleteModel('Errand'),
                migrations.DeleteModel('Order'),
            ],
        ),
    ]
