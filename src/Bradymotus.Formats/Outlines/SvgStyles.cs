using System.Xml.Linq;

namespace Bradymotus.Formats.Outlines;

/// <summary>
/// What the style sheets of a drawing say of an element (CSS 2.1, chapter 5 and 6.4): rules by name, class and id, alone or together, in lists. The
/// more particular rule counts, then the later one; a style on the element itself goes before, an attribute behind.
/// </summary>
internal sealed class SvgStyles
{
    private const int MostRules = 5000;

    private readonly List<(string Tag, string Id, string[] Classes, int Weight, Dictionary<string, string> Says)> _rules = [];

    /// <summary>Rules that depend on where an element stands, or on what a pointer does, are not known here.</summary>
    internal bool HasOthers { get; private set; }

    internal SvgStyles(XElement root)
    {
        foreach (var sheet in root.DescendantsAndSelf().Where(e => e.Name.LocalName == "style"))
        {
            Read(sheet.Value);
        }
    }

    /// <summary>What an element has of a property; null where nothing says it.</summary>
    internal string? Of(XElement element, string property)
    {
        if (Declared(element.Attribute("style")?.Value).TryGetValue(property, out var own))
        {
            return own;
        }
        if (_rules.Count > 0)
        {
            var (tag, id) = (element.Name.LocalName, element.Attribute("id")?.Value ?? "");
            var classes = (element.Attribute("class")?.Value ?? "").Split([' ', '\t', '\r', '\n'], StringSplitOptions.RemoveEmptyEntries);
            string? found = null;
            var most = -1;
            foreach (var rule in _rules)
            {
                if (rule.Weight >= most && rule.Says.TryGetValue(property, out var says)
                    && (rule.Tag is "" or "*" || rule.Tag == tag) && (rule.Id.Length == 0 || rule.Id == id) && Array.TrueForAll(rule.Classes, classes.Contains))
                {
                    (found, most) = (says, rule.Weight);
                }
            }
            if (found is not null)
            {
                return found;
            }
        }
        return element.Attribute(property)?.Value.Trim();
    }

    private void Read(string sheet)
    {
        // Comments may stand anywhere.
        while (sheet.IndexOf("/*", StringComparison.Ordinal) is >= 0 and var open)
        {
            var close = sheet.IndexOf("*/", open + 2, StringComparison.Ordinal);
            sheet = sheet[..open] + (close < 0 ? "" : sheet[(close + 2)..]);
        }
        for (var at = 0; at < sheet.Length && _rules.Count < MostRules;)
        {
            var open = sheet.IndexOf('{', at);
            var close = open < 0 ? -1 : sheet.IndexOf('}', open);
            if (close < 0)
            {
                return;
            }
            var selectors = sheet[at..open].Trim();
            if (selectors.StartsWith('@'))
            {
                HasOthers = true;
            }
            else
            {
                var says = Declared(sheet[(open + 1)..close]);
                foreach (var selector in selectors.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
                {
                    Add(selector, says);
                }
            }
            at = close + 1;
        }
    }

    private void Add(string selector, Dictionary<string, string> says)
    {
        if (selector.IndexOfAny([' ', '>', '+', '~', ':', '[', '\t', '\r', '\n']) >= 0)
        {
            HasOthers = true;
            return;
        }
        var (tag, id, classes) = ("", "", new List<string>());
        for (var at = 0; at < selector.Length;)
        {
            var end = selector.IndexOfAny(['.', '#'], at + 1);
            var word = selector[at..(end < 0 ? selector.Length : end)];
            at += word.Length;
            switch (word[0])
            {
                case '.':
                    classes.Add(word[1..]);
                    break;
                case '#':
                    id = word[1..];
                    break;
                default:
                    tag = word;
                    break;
            }
        }
        _rules.Add((tag, id, [.. classes], (id.Length > 0 ? 10_000 : 0) + 100 * classes.Count + (tag is "" or "*" ? 0 : 1), says));
    }

    private static Dictionary<string, string> Declared(string? text)
    {
        var says = new Dictionary<string, string>();
        foreach (var declaration in (text ?? "").Split(';'))
        {
            if (declaration.IndexOf(':', StringComparison.Ordinal) is > 0 and var colon)
            {
                var value = declaration[(colon + 1)..].Trim();
                says[declaration[..colon].Trim()] = value.EndsWith("!important", StringComparison.OrdinalIgnoreCase) ? value[..^10].Trim() : value;
            }
        }
        return says;
    }
}
