namespace WarySentinel.Core.Markup;

/// <summary>What the attributes of a tag say to the filter.</summary>
internal sealed partial class HtmlFilter
{
    private bool hasBase;

    /// <summary>What a tag asks for.</summary>
    private ref struct Marks
    {
        /// <summary>The fate of a link that words or blocks stand in.</summary>
        public Fate Link;

        /// <summary>Whether the element goes: it is for others, or it is made of something hidden.</summary>
        public bool Drop;

        /// <summary>Whether something hidden stands behind it.</summary>
        public bool IsHidden;

        /// <summary>Whether a link in it leads to a page that the visitor may see in lists.</summary>
        public bool IsOpen;

        public bool IsData;
        public bool SelfClosing;
        public string? Form;
        public string? To;

        /// <summary>An attribute that goes alone.</summary>
        public (int From, int To) Cut;

        /// <summary>The price that stands in place of what is in the element; null where that stays.</summary>
        public PriceSaid? Price;

        /// <summary>The attribute that holds it for programs: its value gives way to the price's amount.</summary>
        public (int From, int To) Amount;
    }

    /// <summary>What an attribute is to the filter; the first of a name counts (HTML §13.2.5.33).</summary>
    private enum Role
    {
        None,
        Href,
        XlinkHref,
        Source,
        SourceSet,
        Data,
        Poster,
        Action,
        FormAction,
        Ping,
        Content,
        Value,
        Type,
        Name,
        To,
        Item,
        For,
        Act,
        Price,
        Quantity,
        Currency,
    }

    private Marks MarksOf(Element element, ReadOnlySpan<byte> tag, int nameEnd)
    {
        var marks = new Marks();
        var reader = new TagReader(tag, nameEnd);
        if (!element.Is(Traits.Links) && open.Top?.IsForeign != true && tag.IndexOf("-"u8) < 0)
        {
            return marks;
        }

        var seen = 0;
        string? item = null, act = null, price = null, quantity = null, currency = null;
        while (reader.Next(out var attribute, out var value))
        {
            var role = RoleOf(attribute);
            if (role == Role.None || (seen & (1 << (int)role)) != 0)
            {
                continue;
            }

            seen |= 1 << (int)role;
            switch (role)
            {
                case Role.Item:
                    item = Decode(value);
                    break;
                case Role.Act:
                    act = Decode(value);
                    break;
                case Role.Price:
                    price = Decode(value);
                    break;
                case Role.Quantity:
                    quantity = Decode(value);
                    break;
                case Role.Currency:
                    currency = Decode(value);
                    break;
                case Role.For:
                    marks.Drop |= !Decider.Admits(Decode(value));
                    break;
                case Role.Name or Role.To when element.Name == "wary-form":
                    (marks.Form, marks.To) = role == Role.Name ? (Decode(value), marks.To) : (marks.Form, Decode(value));
                    break;
                case Role.Type when element.Name == "script":
                    marks.IsData = IsData(value);
                    break;
                default:
                    marks.Amount = role is Role.Value or Role.Content ? (reader.From, reader.To) : marks.Amount;
                    Address(element, role, value, ref marks, (reader.From, reader.To));
                    break;
            }
        }

        marks.Price = price is null ? null : Decider.PriceOf(price, quantity, currency);

        // An act without an item says nothing that could be decided: closed.
        marks.Drop |= item is not null ? !(act is null ? Decider.MayList(item) : Decider.May(item, act)) : act is not null;
        marks.SelfClosing = reader.SelfClosing;
        return marks;
    }

    /// <summary>What becomes of an element by an address in it.</summary>
    private void Address(Element element, Role role, ReadOnlySpan<byte> value, ref Marks marks, (int From, int To) place)
    {
        switch (element.Name, role)
        {
            case ("base", Role.Href):
                if (!hasBase)
                {
                    Decider.SetBase(Decode(value));
                }

                hasBase = true;
                break;
            case ("a" or "area", Role.Href or Role.XlinkHref):
                var href = Decode(value);
                var leads = !LeadsNowhere(href);
                var fate = leads ? Decider.OfLink(href) : Fate.Keep;
                marks.IsOpen |= leads && fate != Fate.Drop;
                marks.Link = marks.Link == Fate.Drop || fate == Fate.Drop ? Fate.Drop : fate;
                marks.IsHidden |= fate == Fate.Drop;
                break;
            case (_, Role.Ping) or (_, Role.SourceSet) or (_, Role.Poster):
                marks.Cut = IsAnyHidden(Decode(value)) ? place : marks.Cut;
                break;
            case ("meta", Role.Content):
                marks.IsHidden |= IsHiddenMeta(Decode(value));
                break;
            case ("option", Role.Value):
                marks.IsHidden |= Decode(value) is var chosen && (chosen.StartsWith('/') || chosen.Contains("://", StringComparison.Ordinal))
                    && Decider.OfLink(chosen) == Fate.Drop;
                break;
            case ("form", Role.Action) or ("button" or "input", Role.FormAction) or ("object", Role.Data) or (_, Role.Source):
            case ("link" or "use" or "image" or "feimage", Role.Href or Role.XlinkHref):
                marks.IsHidden |= Decode(value) is { Length: > 0 } address && !LeadsNowhere(address) && Decider.OfLink(address) == Fate.Drop;
                break;
        }

        marks.Drop |= marks.IsHidden && marks.Link != Fate.Drop;
    }

    private bool IsAnyHidden(string addresses)
    {
        foreach (var part in addresses.Split([' ', ',', '\t', '\n', '\r'], StringSplitOptions.RemoveEmptyEntries))
        {
            if (!LeadsNowhere(part) && Decider.OfLink(part) == Fate.Drop)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>A page that sends on (HTML §4.2.5.3), or says where something is that it is about.</summary>
    private bool IsHiddenMeta(string content)
    {
        var at = content.IndexOf("url", StringComparison.OrdinalIgnoreCase);
        var address = at >= 0 ? content[(at + 3)..].TrimStart().TrimStart('=').Trim().Trim('"', '\'')
            : content.StartsWith('/') || content.StartsWith("http", StringComparison.OrdinalIgnoreCase) ? content.Trim() : "";
        return address.Length > 0 && Decider.OfLink(address) == Fate.Drop;
    }

    /// <summary>Data for search engines, whatever stands behind its type (RFC 6838).</summary>
    private static bool IsData(ReadOnlySpan<byte> type)
    {
        var end = type.IndexOf((byte)';');
        var plain = end < 0 ? type : type[..end];
        return Is(plain.Trim(" \t\r\n\f"u8), "application/ld+json"u8);
    }

    /// <summary>Whether a link stays on its page or leads to none: a place in it, a script, an address to write to.</summary>
    private static bool LeadsNowhere(string href)
    {
        var text = href.AsSpan().Trim();
        var colon = text.IndexOf(':');
        return text.Length == 0 || text[0] == '#' || (colon > 0 && text[..colon].IndexOfAnyExcept(Scheme) < 0 && char.IsAsciiLetter(text[0])
            && !text.StartsWith("http", StringComparison.OrdinalIgnoreCase));
    }

    private static readonly System.Buffers.SearchValues<char> Scheme =
        System.Buffers.SearchValues.Create("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789+.-\t\r\n");

    private static Role RoleOf(ReadOnlySpan<byte> name) => name.Length switch
    {
        2 when Is(name, "to"u8) => Role.To,
        3 when Is(name, "src"u8) => Role.Source,
        4 when Is(name, "href"u8) => Role.Href,
        4 when Is(name, "type"u8) => Role.Type,
        4 when Is(name, "data"u8) => Role.Data,
        4 when Is(name, "ping"u8) => Role.Ping,
        4 when Is(name, "name"u8) => Role.Name,
        5 when Is(name, "value"u8) => Role.Value,
        6 when Is(name, "srcset"u8) => Role.SourceSet,
        6 when Is(name, "action"u8) => Role.Action,
        6 when Is(name, "poster"u8) => Role.Poster,
        7 when Is(name, "content"u8) => Role.Content,
        10 when Is(name, "xlink:href"u8) => Role.XlinkHref,
        10 when Is(name, "formaction"u8) => Role.FormAction,
        11 when Is(name, "imagesrcset"u8) => Role.SourceSet,
        13 when Is(name, "data-wary-for"u8) => Role.For,
        13 when Is(name, "data-wary-act"u8) => Role.Act,
        14 when Is(name, "data-wary-item"u8) => Role.Item,
        15 when Is(name, "data-wary-price"u8) => Role.Price,
        18 when Is(name, "data-wary-quantity"u8) => Role.Quantity,
        18 when Is(name, "data-wary-currency"u8) => Role.Currency,
        _ => Role.None,
    };
}
