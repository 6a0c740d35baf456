/** What every component that is drawn in a test finds: the product's own style, on paper. */
import '../style/app.css';

document.documentElement.dataset['theme'] = 'paper';
