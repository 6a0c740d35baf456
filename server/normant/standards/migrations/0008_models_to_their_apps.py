from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [('standards', '0007_keys_and_codes')]

    operations = [
        # The tables stay, and the apps that these models moved to take them over.
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.DeleteModel('Dialect'),
                migrations.DeleteModel('DialectVersion'),
                migrations.DeleteModel('Package'),
                migrations.DeleteModel('Template'),
            ],
        ),
    ]
