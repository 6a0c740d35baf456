from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("notices", "0002_confirmed")]

    operations = [
        migrations.RenameModel("Told", "SentNotice"),
        migrations.RenameField("Delivery", "told", "notice"),
    ]
