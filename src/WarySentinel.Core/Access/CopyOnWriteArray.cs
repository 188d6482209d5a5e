namespace WarySentinel.Core.Access;

/// <summary>
/// An array that a later one is made from at the cost of what differs: its pages are shared until one of them is written to. Whoever made a copy of an
/// array writes to the original no more.
/// </summary>
internal sealed class CopyOnWriteArray<T>
    where T : class
{
    private const int Shift = 10;
    private const int PageLength = 1 << Shift;

    private readonly T[][] pages;
    private readonly bool[] own;

    /// <summary>An array of that many places, each without a value yet.</summary>
    public CopyOnWriteArray(int count)
    {
        pages = [.. Enumerable.Range(0, (count + PageLength - 1) >> Shift).Select(_ => new T[PageLength])];
        own = [.. pages.Select(_ => true)];
    }

    /// <summary>An array that holds what another one does.</summary>
    public CopyOnWriteArray(CopyOnWriteArray<T> like) => (pages, own) = ([.. like.pages], new bool[like.pages.Length]);

    /// <summary>What stands at a place.</summary>
    public T this[int place]
    {
        get => pages[place >> Shift][place & (PageLength - 1)];
        set
        {
            ref var page = ref pages[place >> Shift];
            if (!own[place >> Shift])
            {
                (page, own[place >> Shift]) = ([.. page], true);
            }

            page[place & (PageLength - 1)] = value;
        }
    }
}
