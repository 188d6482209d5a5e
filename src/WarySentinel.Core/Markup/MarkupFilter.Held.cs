namespace WarySentinel.Core.Markup;

/// <summary>What is held back, let go, or dropped.</summary>
public sealed partial class MarkupFilter
{
    private void Pop(int at)
    {
        var open = stack[at];
        stack.RemoveAt(at);
        places.Pop(open.Element, at);
        if (heldAt.Count > 0 && heldAt[^1] == at)
        {
            heldAt.RemoveAt(heldAt.Count - 1);
            heldFrom = Math.Min(heldFrom, heldAt.Count);
        }

        var dropped = mutedAt == at;
        if (dropped)
        {
            mutedAt = -1;
        }

        if (open.IsList && open.Start >= 0 && !dropped && open.Dropped > 0 && open.Kept == 0)
        {
            length = open.Start;
            dropped = true;
        }

        held -= open.Start >= 0 ? 1 : 0;
        if (open.IsEntry && NearestList() is { } list)
        {
            if (dropped)
            {
                list.Dropped++;
            }
            else if (list.Kept++ == 0 && list.Start >= 0)
            {
                Release(list);
            }
        }

        if (dropped && open.IsList && NearestEntry() is >= 0 and var entry && stack[entry].Start >= 0 && IsBare(stack[entry]))
        {
            Mute(entry);
        }

        spare.Push(open);
    }

    private Open? NearestList() => places.List is >= 0 and var at ? stack[at] : null;

    /// <summary>An element as it begins; those that ended are used again.</summary>
    private Open Take(Element element)
    {
        if (!spare.TryPop(out var open))
        {
            return new Open { Element = element };
        }

        (open.Element, open.Start, open.IsEntry, open.IsList, open.Marked) = (element, -1, false, false, false);
        (open.Kept, open.Dropped, open.TextStart, open.IsData) = (0, 0, -1, false);
        return open;
    }

    /// <summary>Whether an entry holds nothing but its own tag and blanks so far.</summary>
    private bool IsBare(Open entry)
    {
        var text = pending.AsSpan(entry.Start, length - entry.Start);
        var close = text.IndexOf((byte)'>');
        return close >= 0 && text[(close + 1)..].IndexOfAnyExcept(" \t\r\n"u8) < 0;
    }

    private void Release(Open open)
    {
        open.Start = -1;
        open.TextStart = -1;
        held--;
    }

    private void Mute(int at)
    {
        if (mutedAt >= 0 && mutedAt <= at)
        {
            return;
        }

        if (stack[at].Start < 0)
        {
            // It was let go of already; only what follows can be kept back.
            mutedAt = at;
            return;
        }

        length = stack[at].Start;
        mutedAt = at;
    }

    private int NearestEntry() => places.Entry;

    private void Put(ReadOnlySpan<byte> bytes)
    {
        if (mutedAt >= 0)
        {
            return;
        }

        if (length + bytes.Length > pending.Length)
        {
            Array.Resize(ref pending, Math.Max(pending.Length * 2, length + bytes.Length));
        }

        bytes.CopyTo(pending.AsSpan(length));
        length += bytes.Length;
        if (length > MostHeld && FirstHeld() is { } outer && length - outer.Start > MostHeld)
        {
            foreach (var at in heldAt.Skip(heldFrom).Where(at => stack[at].Start >= 0))
            {
                Release(stack[at]);
            }

            heldFrom = heldAt.Count;
        }
    }

    /// <summary>The outermost element that is held back still; those that were let go of are passed over once.</summary>
    private Open? FirstHeld()
    {
        while (heldFrom < heldAt.Count && stack[heldAt[heldFrom]].Start < 0)
        {
            heldFrom++;
        }

        return heldFrom < heldAt.Count ? stack[heldAt[heldFrom]] : null;
    }

    private string Decode(ReadOnlySpan<byte> value)
    {
        var text = encoding.GetString(value);
        return text.Contains('&', StringComparison.Ordinal) ? System.Net.WebUtility.HtmlDecode(text) : text;
    }

    private static bool IsLetter(byte b) => (b | 0x20) is >= (byte)'a' and <= (byte)'z';
}
